<script lang="ts">
  import type { ComponentProps } from 'svelte';
  import type ColumnList from './ColumnList.svelte';
  import Dialog from './Dialog.svelte';

  /** Which columns a table has, and in which order: chosen in a dialog, whose parts are loaded when it is opened. */
  let props: Omit<ComponentProps<typeof ColumnList>, 'onclose'> = $props();
  let isOpen = $state(false);
</script>

<button
  class="btn btn-xs"
  aria-haspopup="dialog"
  title="which columns, and in which order"
  onclick={() => (isOpen = true)}>columns</button
>

<Dialog title="Columns" bind:isOpen>
  {#await import('./ColumnList.svelte') then { default: List }}<List
      {...props}
      onclose={() => (isOpen = false)}
    />{/await}
</Dialog>
