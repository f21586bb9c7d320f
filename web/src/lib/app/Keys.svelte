<script lang="ts">
  import { Dialog } from '$lib/ui';
  import type { Action } from './actions';

  let { isOpen = $bindable(), actions }: { isOpen: boolean; actions: readonly Action[] } = $props();
</script>

<Dialog title="Keys" bind:isOpen>
  <dl class="m-0 grid grid-cols-2 gap-x-6">
    {#each actions.filter(({ keys }) => keys.length > 0) as { keys, what } (what)}
      <div class="flex items-center justify-between gap-3 border-b border-dotted border-line py-1.5">
        <dt class="text-soft">{what}</dt>
        <dd class="m-0 flex gap-1 whitespace-nowrap">
          {#each keys as key (key)}<kbd class="kbd kbd-xs">{key}</kbd>{/each}
        </dd>
      </div>
    {/each}
  </dl>
  <p class="mt-3 mb-0 text-soft">
    Esc closes this. New here? The <a class="text-ink underline" href="/guide">guide</a> walks through the job. The
    whole state stands in the address: a copied link reopens what you see. Whatever is computed can be asked for over
    HTTP, too: <a class="text-ink underline" href="/api">API</a>.
  </p>
</Dialog>
