<script lang="ts">
  import Pause from '@lucide/svelte/icons/pause';
  import Play from '@lucide/svelte/icons/play';
  import { DYNAMICS } from '@umwelt/core';
  import { figures } from '$lib/formats';
  import { useParams } from '$lib/state';
  import { Slider } from '$lib/ui';
  import type { StructureDesk } from './desk.svelte';
  import { MOST_SKEW, MOST_VOL, PARAMS } from './params';

  /** What is thought to happen: date, vol and skew by sliders, what vols do as the price moves, and announcements. */
  let { desk }: { desk: StructureDesk } = $props();

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
<div class="flex flex-none items-center gap-3 px-3 py-1.5 text-[12px]" role="group" aria-label="How vols move">
  <label class="flex items-center gap-1 text-soft" title="what keeps its vol while the price moves"
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
    <label class="flex min-w-0 items-center gap-1" title={desk.announced.map(({ words }) => words).join('\n')}>
      <input type="checkbox" class="checkbox checkbox-xs" bind:checked={params.hasEvents} />
      <span class="truncate"
        >{desk.announced[0]!.words}{desk.announced.length > 1 ? ` and ${desk.announced.length - 1} more` : ''}
        {params.hasEvents ? 'takes its variance with it' : 'carries no variance of its own'}</span
      >
    </label>
  {:else}
    <span class="text-soft">no announcement before the last expiry</span>
  {/if}
</div>
