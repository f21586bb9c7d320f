<script lang="ts">
  import { Popover } from 'bits-ui';
  import type { Snippet } from 'svelte';

  /**
   * Some fields beside the button that opens them; Escape and a click elsewhere close them.
   *
   * @prop label what the fields are, for whoever does not see the button beside them
   */
  const OWN_KEYS = ['Enter', ' ', 'ArrowUp', 'ArrowDown'];

  let { label, trigger, children }: { label: string; trigger: Snippet; children: Snippet } = $props();
</script>

<Popover.Root>
  <Popover.Trigger
    class="choice flex-none px-2! whitespace-nowrap"
    aria-label={label}
    onkeydown={(event) => {
      // Its own keys; letters are those of the application once the fields are closed.
      if (OWN_KEYS.includes(event.key)) event.stopPropagation();
    }}>{@render trigger()}</Popover.Trigger
  >
  <Popover.Portal>
    <Popover.Content
      align="end"
      sideOffset={3}
      aria-label={label}
      class="z-50 rounded-md border border-line bg-panel p-2 text-[12px] shadow-md"
      onkeydown={(event) => {
        // Elsewhere letters are keys of the application. Escape closes the fields, above them.
        if (event.key !== 'Escape') event.stopPropagation();
      }}
    >
      {@render children()}
    </Popover.Content>
  </Popover.Portal>
</Popover.Root>
