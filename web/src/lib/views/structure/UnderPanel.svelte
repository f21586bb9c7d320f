<script lang="ts">
  import { HedgedPanel } from '$lib/hedged';
  import { keepInHand, KeptPanel, legsOfKept, type KeptStructure } from '$lib/kept';
  import { problemOf, useParams, useWorkbench } from '$lib/state';
  import { TitleTabs } from '$lib/ui';
  import type { StructureDesk } from './desk.svelte';
  import LegGreeks from './LegGreeks.svelte';
  import { PARAMS, UNDERS, type Under } from './params';
  import Stress from './Stress.svelte';
  import Traded from './Traded.svelte';

  /** What is under the profile: one of some tables. */
  let { desk }: { desk: StructureDesk } = $props();

  const params = useParams(PARAMS);
  const NAMES: Record<Under, string> = {
    stress: 'Stress',
    greeks: 'Greeks of legs',
    kept: 'Kept',
    traded: 'Traded',
    hedged: 'Hedged past',
  };
  const SAYS: Record<Under, string> = {
    stress: 'profit against the fill, at the date of the scenario; the worst cell is marked',
    greeks: 'of all of each leg, on the basis, in the scenario',
    kept: '',
    hedged: 'what it would have brought with its delta kept at nothing, over what is held of its past',
    traded: 'trades of several legs of the session so far; which way they went is told by theory at their time',
  };

  const bench = useWorkbench();
  let name = $state('');
  let problem = $state<string | null>(null);

  async function keep(): Promise<void> {
    try {
      await keepInHand(bench, name);
      name = '';
      problem = null;
    } catch (error) {
      problem = problemOf(error);
    }
  }

  function putBeside(kept: KeptStructure): void {
    params.before = legsOfKept(kept).legs;
  }
</script>

<section class="panel min-h-0 flex-1" aria-label={NAMES[params.under]}>
  <header class="flex flex-none items-baseline gap-3 px-3 pt-2">
    <TitleTabs label="Under the profile" options={UNDERS} names={NAMES} bind:value={params.under} />
    <span class="min-w-0 truncate text-[12px] text-soft">{SAYS[params.under]}</span>
    {#if params.under === 'kept'}
      <span class="flex-1"></span>
      {#if problem}<span class="truncate text-[12px] text-loss" role="alert">{problem}</span>{/if}
      <input
        class="w-40 rounded-[4px] border border-line bg-panel px-1.5 text-[12px]"
        aria-label="Name to keep it by"
        placeholder="name"
        maxlength="120"
        bind:value={name}
        onkeydown={(event) => {
          event.stopPropagation();
          if (event.key === 'Enter') void keep();
        }}
      />
      <button class="btn btn-xs" disabled={desk.hand.legs.length === 0} onclick={() => void keep()}
        >keep what is in hand</button
      >
    {/if}
  </header>
  {#if params.under === 'stress'}<Stress {desk} />{:else if params.under === 'greeks'}<LegGreeks
      {desk}
    />{:else if params.under === 'kept'}<KeptPanel beside={putBeside} />{:else if params.under === 'hedged'}<HedgedPanel
    />{:else}<Traded />{/if}
</section>
