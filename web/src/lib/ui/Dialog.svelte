<script lang="ts">
  import type { Snippet } from 'svelte';

  interface Props {
    title: string;
    isOpen: boolean;
    children: Snippet;
  }

  let { title, isOpen = $bindable(), children }: Props = $props();
  let dialog = $state<HTMLDialogElement>();

  $effect(() => {
    if (isOpen && dialog && !dialog.open) {
      dialog.showModal();
      // What is typed next is meant for it.
      dialog.querySelector<HTMLElement>('[data-first]')?.focus();
    }
    if (!isOpen && dialog?.open) dialog.close();
  });
</script>

<dialog bind:this={dialog} class="modal" aria-label={title} onclose={() => (isOpen = false)}>
  <div class="modal-box max-w-xl border border-line p-4 shadow-none">
    <h2 class="mb-2 text-[15px] font-bold">{title}</h2>
    {#if isOpen}{@render children()}{/if}
  </div>
  <form method="dialog" class="modal-backdrop"><button aria-label="Close">close</button></form>
</dialog>
