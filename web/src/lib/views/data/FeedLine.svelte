<script lang="ts">
  import Pause from '@lucide/svelte/icons/pause';
  import Play from '@lucide/svelte/icons/play';
  import RotateCcw from '@lucide/svelte/icons/rotate-ccw';
  import { feedWords } from '$lib/formats';
  import { useWorkbench } from '$lib/state';
  import { Toggles } from '$lib/ui';

  const bench = useWorkbench();
  const { feed } = bench;

  const SPEEDS = [1, 10, 60];
  let chosen = $state(1);
  let isAsking = $state(false);
  const speed = $derived(feed.isRunning ? (feed.state?.speed ?? chosen) : chosen);

  function choose(next: number): void {
    chosen = next;
    if (feed.isRunning) void feed.order({ action: 'start', speed: next });
  }

  function turn(): void {
    isAsking = false;
    void feed.order(feed.isRunning ? { action: 'stop' } : { action: 'start', speed: chosen });
  }

  async function reset(): Promise<void> {
    isAsking = false;
    await feed.order({ action: 'reset' });
    bench.tasks.look();
  }
</script>

<div class="flex items-center gap-2 border-t border-line px-3 py-1.5" role="group" aria-label="Feed">
  <b class="text-[13px]">Feed</b>
  <span class="min-w-0 truncate {feed.problem ? 'text-loss' : 'text-soft'}" role={feed.problem ? 'alert' : 'status'}>
    {#if feed.problem}◆ {feed.problem}{:else if feed.state}{feedWords(
        feed.state,
        feed.prices?.moment,
        bench.market.calendar.zone,
      )}{/if}
  </span>
  <span class="flex-1"></span>
  {#if isAsking}
    <span>Take back what it has stored?</span>
    <button class="btn btn-sm" onclick={() => void reset()}>Reset</button>
    <button class="btn btn-sm" onclick={() => (isAsking = false)}>Keep</button>
  {:else}
    <Toggles
      label="Speed"
      options={SPEEDS}
      words={(one) => `${one}×`}
      titles={(one) => `${one === 1 ? 'a second' : `${one} seconds`} of the market per second`}
      value={speed}
      onchoose={choose}
    />
    <button
      class="btn btn-sm"
      disabled={!feed.isBegun}
      title="Back to the last moment of the demo"
      onclick={() => (isAsking = true)}><RotateCcw size={14} />Reset</button
    >
    <button class="btn btn-primary btn-sm" disabled={!feed.state} onclick={turn}>
      {#if feed.isRunning}<Pause size={14} />Stop{:else}<Play size={14} />Start{/if}
    </button>
  {/if}
</div>
