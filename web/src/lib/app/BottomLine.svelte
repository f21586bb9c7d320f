<script lang="ts">
  import { feedWords, figures } from '$lib/formats';
  import { isRunning, useWorkbench } from '$lib/state';

  let { onkeys, onexport }: { onkeys: () => void; onexport: () => void } = $props();

  const bench = useWorkbench();
  const summary = $derived(bench.moment.summary);
  const feed = $derived(bench.feed.state);
  /** Long-running tasks, shown here in every view. */
  const task = $derived(bench.tasks.list.find(isRunning));
  const TASKS = { demo: 'the demo comes in', rebuild: 'measures are derived anew', export: 'a file is written' };

  const fit = $derived(
    bench.snapshot.shown && bench.focus.lit ? bench.snapshot.shown.snapshot.slices[bench.focus.lit.slice]!.fit : null,
  );
  const refused = $derived((summary?.contracts ?? 0) - (summary?.usable ?? 0));
</script>

<footer
  class="flex h-[22px] flex-none items-center gap-4 border-t border-line bg-panel px-3.5 text-[11.5px] whitespace-nowrap text-soft"
>
  {#if bench.problem}
    <span class="text-loss" role="alert">◆ {bench.problem}</span>
  {:else}
    <a href="/data{bench.address.query}" class="hover:text-ink" data-testid="feed-state">
      {#if feed?.isBegun}
        <span class={bench.feed.isRunning ? 'text-gain' : 'text-soft'}>{bench.feed.isRunning ? '●' : '○'}</span>
        {feedWords(feed, bench.feed.prices?.moment, bench.market.calendar.zone)}
      {:else}<span class="text-gain">●</span> stored snapshots, the feed has not begun{/if}
    </a>
  {/if}
  {#if task}
    <span role="status"
      >{TASKS[task.kind]}{task.total > 0 ? ` ${figures.count(Math.round((100 * task.done) / task.total))} %` : ''}</span
    >
  {/if}
  {#if summary}
    <span
      >{figures.counted(summary.contracts, 'contract')} · {figures.count(summary.usable)} usable · {figures.count(
        refused,
      )} refused</span
    >
    <span>fit {figures.plusMinus(summary.rmse === null ? null : 100 * summary.rmse, 2)} points</span>
  {/if}
  <span class="flex-1"></span>
  {#if fit && bench.market.underlying}
    <span>
      {bench.market.underlying.exercise === 'american' ? 'American' : 'European'} · forward by {fit.forwardSource}
      · ACT/365 · r {figures.percent(fit.rate, 2)}
    </span>
  {/if}
  <button class="cursor-pointer" onclick={onexport}><kbd class="kbd kbd-xs">e</kbd> export</button>
  <button class="cursor-pointer" onclick={onkeys}><kbd class="kbd kbd-xs">?</kbd> keys</button>
</footer>
