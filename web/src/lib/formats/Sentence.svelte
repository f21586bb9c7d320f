<script lang="ts">
  import type { Sentence } from './words';

  let { sentence }: { sentence: Sentence } = $props();
</script>

<p class="sentence m-0"><b>{sentence.lead}</b> {sentence.rest}</p>
