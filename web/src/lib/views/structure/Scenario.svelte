<script lang="ts">
  import Pause from '@lucide/svelte/icons/pause';
  import Play from '@lucide/svelte/icons/play';
  import { DYNAMICS, VOL_SCALES, type VolScale } from '@umwelt/core';
  import { figures, shortExpiry } from '$lib/formats';
  import { useParams, useWorkbench } from '$lib/state';
  import { NumberField, Popover } from '$lib/ui';
  import Slider from '$lib/ui/Slider.svelte';
  import type { StructureDesk } from './desk.svelte';
  import { MOST_RATE, MOST_SKEW, MOST_VOL, MOVE_RANGE, PARAMS } from './params';

  /** What is thought to happen: date, vol and skew by sliders; price, rate, single expiries, what vols do, and announcements. */
  let { desk }: { desk: StructureDesk } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const lastDay = $derived(Math.max(1, Math.floor(desk.horizonDays)));

  /** A day so often while the date plays. */
  const PLAY_MS = 180;
  let isPlaying = $state(false);
  $effect(() => {
    if (!isPlaying) return;
    const timer = setInterval(() => {
      if (params.days >= lastDay) isPlaying = false;
      else params.days = Math.min(lastDay, Math.round(params.days) + 1);
    }, PLAY_MS);
    return () => clearInterval(timer);
  });

  const SCALES: Record<VolScale, string> = { parallel: 'alike', root: '√(30/T)', percent: 'in %' };
  const year = $derived(bench.snapshot.shown?.snapshot.asof.slice(0, 4));
  const shifted = $derived(desk.expiries.filter(({ name }) => params.volShifts[name]).length);
  const price = $derived(desk.answer?.price);
  const announcedTitle = $derived(
    [
      ...desk.announced.map(({ words }) => words),
      params.hasEvents ? 'takes its variance with it' : 'carries no variance of its own',
    ].join('\n'),
  );

  function shift(name: string, points: number): void {
    const { [name]: _, ...others } = params.volShifts;
    params.volShifts = points === 0 ? others : { ...others, [name]: points };
  }

  function play(): void {
    if (!isPlaying && params.days >= lastDay) params.days = 0;
    isPlaying = !isPlaying;
  }
</script>

<div class="flex flex-none items-center gap-2 px-3 pt-1.5 text-[12px]" role="group" aria-label="Scenario">
  <button
    class="btn btn-square btn-xs"
    aria-label={isPlaying ? 'Pause the date' : 'Play the date'}
    title="day by day to the first expiry"
    onclick={play}
    >{#if isPlaying}<Pause size={12} />{:else}<Play size={12} />{/if}</button
  >
  <span class="w-[104px] flex-none whitespace-nowrap"
    ><span class="text-soft">date</span>
    <b class="figures" data-testid="scenario-date">{params.days > 0 ? `+ ${figures.fixed(desk.days, 0)} d` : 'today'}</b
    ></span
  >
  <Slider
    label="Days from now"
    bind:value={params.days}
    min={0}
    max={lastDay}
    step={1}
    color="target"
    class="min-w-0 flex-2"
  />
  <span class="w-[72px] flex-none whitespace-nowrap"
    ><span class="text-soft">vol</span> <b class="figures">{figures.signed(params.volPoints, 1)}</b></span
  >
  <Slider
    label="Points of vol"
    bind:value={params.volPoints}
    min={-MOST_VOL}
    max={MOST_VOL}
    step={0.1}
    class="min-w-0 flex-1"
  />
  <span class="w-[82px] flex-none whitespace-nowrap"
    ><span class="text-soft">skew</span> <b class="figures">{figures.signed(params.skewPoints, 1)}</b></span
  >
  <Slider
    label="Points of skew"
    bind:value={params.skewPoints}
    min={-MOST_SKEW}
    max={MOST_SKEW}
    step={0.1}
    class="min-w-0 flex-1"
  />
  <button
    class="btn btn-xs"
    disabled={!desk.isMoved}
    title="back to the market as it is"
    onclick={() => desk.leaveScenario()}>as it is</button
  >
</div>
<div class="flex flex-none items-center gap-2.5 px-3 py-1.5 text-[12px]" role="group" aria-label="What else moves">
  <span class="flex flex-none items-center gap-1 text-soft" title="by how much the price moves, in per cent of it"
    >price
    <NumberField
      label="Move of the price in per cent"
      bind:value={params.movePercent}
      min={MOVE_RANGE[0]}
      max={MOVE_RANGE[1]}
      step={0.5}
      none={0}
      placeholder="0"
    /> %{#if params.movePercent !== 0 && price !== undefined}
      <b class="figures text-ink" data-testid="scenario-price">{figures.fixed(price, bench.market.decimals)}</b
      >{/if}</span
  >
  <span class="flex flex-none items-center gap-1 text-soft" title="points that are added to the rate"
    >rate
    <NumberField
      label="Points of rate"
      bind:value={params.ratePoints}
      min={-MOST_RATE}
      max={MOST_RATE}
      step={0.25}
      none={0}
      placeholder="0"
    /></span
  >
  <label
    class="flex flex-none items-center gap-1 text-soft"
    title="how a shift of vol is meant: the same for all expiries, less for far ones by the root of time, or as a share of each vol"
    >shifts
    <select
      class="choice"
      aria-label="How a shift of vol is meant"
      bind:value={params.volScale}
      onkeydown={(event) => event.stopPropagation()}
    >
      {#each VOL_SCALES as name (name)}<option value={name}>{SCALES[name]}</option>{/each}
    </select></label
  >
  {#if desk.expiries.length > 1}
    <Popover label="Shifts of single expiries">
      {#snippet trigger()}{shifted > 0 ? `by expiry (${shifted})` : 'by expiry …'}{/snippet}
      <p class="m-0 pb-1 text-soft">points of vol, beside the shift of all</p>
      {#each desk.expiries as expiry (expiry.name)}
        <div class="flex items-center justify-between gap-3 py-0.5">
          {shortExpiry(expiry, year)}
          <NumberField
            label="Points of vol of {shortExpiry(expiry, year)}"
            bind:value={() => params.volShifts[expiry.name] ?? 0, (points) => shift(expiry.name, points)}
            min={-MOST_VOL}
            max={MOST_VOL}
            step={0.5}
            none={0}
            placeholder="0"
          />
        </div>
      {/each}
    </Popover>
  {/if}
  <label class="flex flex-none items-center gap-1 text-soft" title="what keeps its vol while the price moves"
    >vols stick to
    <select
      class="choice"
      aria-label="What keeps its vol"
      bind:value={params.dynamics}
      onkeydown={(event) => event.stopPropagation()}
    >
      {#each DYNAMICS as name (name)}<option value={name}>{name}</option>{/each}
    </select></label
  >
  {#if desk.announced.length > 0}
    <label class="flex min-w-0 items-center gap-1" title={announcedTitle}>
      <input type="checkbox" class="checkbox checkbox-xs" bind:checked={params.hasEvents} />
      <span class="truncate"
        >{desk.announced[0]!.words}{desk.announced.length > 1 ? ` and ${desk.announced.length - 1} more` : ''}
        {params.hasEvents ? 'takes its variance with it' : 'carries no variance of its own'}</span
      >
    </label>
  {:else}
    <span class="min-w-0 truncate text-soft">no announcement before the last expiry</span>
  {/if}
</div>
