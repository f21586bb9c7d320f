<script lang="ts">
  import type { BookDesk } from './desk.svelte';

  let { desk }: { desk: BookDesk } = $props();
</script>

<p class="m-auto text-soft">{desk.detail?.name ?? 'Choose a position.'}</p>
