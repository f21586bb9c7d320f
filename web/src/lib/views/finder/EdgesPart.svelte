<script lang="ts">
  import type { FoundRow } from '@umwelt/core';
  import { figures } from '$lib/formats';
  import { edgeSteps } from './edges';

  /** Where the edges come from, as sums that add up. */
  let { row }: { row: FoundRow } = $props();

  const steps = $derived(edgeSteps(row));
  /** One scale for all, nothing in it. */
  const reach = $derived.by(() => {
    const ends = steps.flatMap(({ from, to, error }) => [from, to, to - error, to + error]).filter(Number.isFinite);
    const [low, high] = [Math.min(0, ...ends), Math.max(0, ...ends)];
    return { low, span: high - low || 1 };
  });
  const at = (value: number) => (100 * (value - reach.low)) / reach.span;
</script>

<h3 class="m-0 mt-2 text-[12.5px] font-bold">
  Edges <span class="font-normal text-soft">in money a contract, as a sum</span>
</h3>
<table class="w-full border-collapse text-[12px]" aria-label="Edges" data-testid="finder-edges">
  <tbody>
    {#each steps as { words, title, amount, from, to, error, isSum } (words)}
      <tr {title}>
        <th class="py-px pr-2 text-left {isSum ? '' : 'font-normal'}">{words}</th>
        <td class="w-[38%]">
          <span class="relative block h-[10px]">
            <span class="absolute inset-y-0 w-px bg-line" style="left: {at(0)}%"></span>
            <span
              class="absolute inset-y-[1px] {isSum ? 'bg-ink' : amount < 0 ? 'hatched' : 'bg-gain'}"
              style="left: {Math.min(at(from), at(to))}%; width: {Math.max(0.8, Math.abs(at(to) - at(from)))}%"
            ></span>
            {#if Number.isFinite(error)}<span
                class="absolute top-[4px] h-[2px] bg-[var(--depth-1)]"
                style="left: {at(to - error)}%; width: {at(to + error) - at(to - error)}%"
              ></span>{/if}
          </span>
        </td>
        <td class="figures pl-1 text-right {isSum ? 'font-bold' : amount < 0 ? 'text-loss' : 'text-gain'}"
          >{figures.signed(amount, 0)}</td
        >
      </tr>
    {/each}
  </tbody>
</table>

<style>
  .hatched {
    background: repeating-linear-gradient(45deg, var(--loss) 0 2px, transparent 2px 4px);
    outline: 1px solid var(--loss);
    outline-offset: -1px;
  }
</style>
