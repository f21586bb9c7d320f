<script lang="ts" generics="T extends { name: string }">
  import Undo from '@lucide/svelte/icons/undo-2';

  interface Props {
    /** What is kept: "Screen", for those who do not see the list. */
    label: string;
    /** What may be chosen, in groups with a heading each. */
    groups: readonly { title: string; options: readonly T[] }[];
    /** The option that is in view, null where what is in view is none of them. */
    current: T | null;
    /** What stands in place of a name while none of them is in view. */
    none: string;
    /** Whether what is in view may be kept under a name. */
    canKeep: boolean;
    /** Whether the option in view can be deleted. */
    canDelete: boolean;
    /** Whether keeping under a name replaces what is kept under it. */
    replaces?: (name: string) => boolean;
    /** What was deleted last, and can be brought back. */
    gone?: T | null;
    most?: number;
    /** Of the list. */
    class?: string;
    onchoose: (name: string) => void;
    /** Keeps what is in view; false where it was refused. */
    onkeep: (name: string) => boolean | Promise<boolean>;
    ondelete: (option: T) => void;
    onundo?: (option: T) => void;
  }

  let {
    label,
    groups,
    current,
    none,
    canKeep,
    canDelete,
    replaces,
    gone,
    most = 60,
    class: ownClass = 'max-w-44',
    onchoose,
    onkeep,
    ondelete,
    onundo,
  }: Props = $props();
  let name = $state('');
  let isNaming = $state(false);

  async function keep(event: SubmitEvent): Promise<void> {
    event.preventDefault();
    if (name.trim() && (await onkeep(name.trim()))) isNaming = false;
  }
</script>

<select
  class="choice {ownClass}"
  aria-label={label}
  value={current?.name ?? ''}
  onchange={(event) => onchoose(event.currentTarget.value)}
>
  <option value="">{none}</option>
  {#each groups.filter(({ options }) => options.length > 0) as { title, options } (title)}
    <optgroup label={title}>
      {#each options as { name: one } (one)}<option value={one}>{one}</option>{/each}
    </optgroup>
  {/each}
</select>
{#if isNaming}
  <form class="flex gap-1" onsubmit={keep}>
    <!-- svelte-ignore a11y_autofocus -->
    <input
      class="w-32 rounded-[5px] border border-line bg-panel px-1.5 text-[11px]"
      aria-label="Name of the {label.toLowerCase()}"
      placeholder="name"
      maxlength={most}
      required
      autofocus
      bind:value={name}
      onkeydown={(event) => {
        event.stopPropagation();
        if (event.key === 'Escape') isNaming = false;
      }}
    />
    <button class="btn btn-xs">{replaces?.(name.trim()) ? 'replace it' : 'keep'}</button>
  </form>
{:else if current && canDelete}
  <button class="btn btn-xs" onclick={() => ondelete(current)}>delete</button>
{:else if gone && onundo}
  <button class="btn btn-xs" title="bring “{gone.name}” back" onclick={() => onundo(gone)}
    ><Undo size={11} /> undo</button
  >
{:else if canKeep}
  <button
    class="btn btn-xs"
    onclick={() => {
      name = '';
      isNaming = true;
    }}>keep …</button
  >
{/if}
