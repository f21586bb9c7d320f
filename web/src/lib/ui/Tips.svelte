<script lang="ts">
  import { Tooltip } from 'bits-ui';
  import type { Snippet } from 'svelte';

  /** Holds everything that may have tips: the next one comes at once while one is open. */
  let { children }: { children: Snippet } = $props();
</script>

<Tooltip.Provider delayDuration={150} skipDelayDuration={300}>{@render children()}</Tooltip.Provider>
