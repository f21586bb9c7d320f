<script lang="ts">
  import { ODDS_KINDS } from '@umwelt/core';
  import { figures } from '$lib/formats';
  import { useWorkbench, useParams } from '$lib/state';
  import type { ChainDesk } from './desk.svelte';
  import { TARGET_WORDS } from './target';
  import { PARAMS } from './params';
  import { Toggles } from '$lib/ui';
  import Slider from '$lib/ui/Slider.svelte';

  let { desk }: { desk: ChainDesk } = $props();
  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const KINDS = { itm: 'ITM', touch: 'touch', breakEven: 'break-even' } as const;

  /** Those of the expiry in focus, where it is unfolded. */
  const met = $derived(desk.met[bench.focus.current?.slice ?? -1] ?? []);
</script>

<div class="flex h-7 items-center gap-2 px-3 text-[12px] whitespace-nowrap" data-testid="target-line">
  <Toggles label="Odds of what" options={ODDS_KINDS} words={(kind) => KINDS[kind]} bind:value={params.targetKind} />
  <span class="text-soft">safer</span>
  <Slider
    label="Target odds in per cent"
    min={0.5}
    max={60}
    step={0.5}
    color="target"
    class="w-40 flex-none"
    bind:value={params.target}
  />
  <span class="text-soft">nearer</span>
  <b class="figures w-[52px] text-right text-target">{figures.fixed(params.target, 1)} %</b>
  <span class="min-w-0 flex-1 truncate" data-testid="met"
    >{#if met.length === 0}
      no strike has so little {TARGET_WORDS[params.targetKind]}
    {:else}
      {#each met as one, i (one.side)}{i > 0 ? ', ' : ''}<b>{figures.strike(one.strike)} {one.side}</b> for {figures.fixed(
          one.spread ? one.spread.credit : one.credit,
          bench.market.decimals,
        )} (delta {figures.fixed(one.delta, 2)}){/each}
    {/if}</span
  >
</div>
