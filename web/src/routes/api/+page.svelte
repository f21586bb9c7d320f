<script lang="ts">
  import { Reference } from '$lib/views/reference';
</script>

<svelte:head><title>API · Umwelt</title></svelte:head>

<Reference />
