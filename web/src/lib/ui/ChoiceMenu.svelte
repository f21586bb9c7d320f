<script lang="ts">
  import Check from '@lucide/svelte/icons/check';
  import { DropdownMenu } from 'bits-ui';

  /** Several of many, chosen from a menu that stays open. */
  interface Props {
    /** What is chosen, in the plural. */
    label: string;
    options: readonly { value: string; word: string; title?: string }[];
    chosen: readonly string[];
    onchange: (value: string, isChosen: boolean) => void;
  }

  let { label, options, chosen, onchange }: Props = $props();
  const count = $derived(options.filter(({ value }) => chosen.includes(value)).length);
</script>

<DropdownMenu.Root>
  <DropdownMenu.Trigger class="choice px-2!" onkeydown={(event) => event.stopPropagation()}
    >{label} {count > 0 ? `(${count})` : '…'}</DropdownMenu.Trigger
  >
  <DropdownMenu.Portal>
    <DropdownMenu.Content
      align="start"
      sideOffset={3}
      aria-label={label}
      class="z-50 max-h-[60vh] overflow-y-auto rounded-md border border-line bg-panel p-1 text-[12px] shadow-md"
      onkeydown={(event) => {
        // Letters find an option here; elsewhere they are keys of the application. Escape closes the menu, above it.
        if (event.key !== 'Escape') event.stopPropagation();
      }}
    >
      {#each options as { value, word, title } (value)}
        <DropdownMenu.CheckboxItem
          checked={chosen.includes(value)}
          closeOnSelect={false}
          onCheckedChange={(isChosen) => onchange(value, isChosen)}
          class="flex h-6 cursor-pointer items-center gap-2 rounded px-2 outline-none data-highlighted:bg-band"
        >
          {#snippet children({ checked })}
            <span class="w-3 flex-none"
              >{#if checked}<Check size={12} />{/if}</span
            >
            <b class="font-semibold">{word}</b>
            {#if title}<span class="text-soft">{title}</span>{/if}
          {/snippet}
        </DropdownMenu.CheckboxItem>
      {/each}
    </DropdownMenu.Content>
  </DropdownMenu.Portal>
</DropdownMenu.Root>
