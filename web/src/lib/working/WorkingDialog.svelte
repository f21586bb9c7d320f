<script lang="ts">
  import { Dialog } from '$lib/ui';
  import Derivation from './Derivation.svelte';
  import type { Work } from './lines';

  let { work, onclose }: { work: Work | null; onclose: () => void } = $props();
</script>

<Dialog
  title={work ? `Working: ${work.title}` : 'Working'}
  bind:isOpen={
    () => work !== null,
    (isOpen) => {
      if (!isOpen) onclose();
    }
  }
>
  {#if work}
    <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
    <div class="max-h-[60vh] overflow-y-auto" tabindex="0" role="region" aria-label="Derivation">
      <Derivation lines={work.lines} at={work.at} />
    </div>
    {#if work.others}
      <h3 class="m-0 pt-2 pb-1 text-[12px] font-semibold text-soft">What it would be on the others</h3>
      <table class="dense w-full border-collapse" data-testid="others">
        <thead>
          <tr
            >{#each work.others.heads as head, i (head)}<th class="head-cell static! {i === 0 ? 'text-left!' : ''}"
                >{head}</th
              >{/each}</tr
          >
        </thead>
        <tbody>
          {#each work.others.rows as row, i (i)}
            <tr class="border-t border-line"
              >{#each row as cell, j (j)}<td class="cell py-0.5 {j === 0 ? 'text-left!' : ''}">{cell}</td>{/each}</tr
            >
          {/each}
        </tbody>
      </table>
    {/if}
  {/if}
</Dialog>
