<script lang="ts">
  import { Tooltip } from 'bits-ui';
  import type { Snippet } from 'svelte';

  /** Words that explain something, shown at once when it is pointed at or reached by keys. */
  let { text, children }: { text: string; children: Snippet } = $props();
</script>

<Tooltip.Root disableHoverableContent>
  <Tooltip.Trigger tabindex={-1}>
    {#snippet child({ props })}<span {...props} class="cursor-help">{@render children()}</span>{/snippet}
  </Tooltip.Trigger>
  <Tooltip.Portal>
    <Tooltip.Content
      sideOffset={4}
      class="z-50 max-w-72 rounded border border-line bg-ink px-2 py-1 text-[11.5px] text-panel"
    >
      {text}
    </Tooltip.Content>
  </Tooltip.Portal>
</Tooltip.Root>
