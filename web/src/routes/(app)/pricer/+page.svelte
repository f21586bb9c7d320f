<script lang="ts">
  import {
    Carry,
    Compared,
    Fields,
    Market,
    Moved,
    PricerDesk,
    Reading,
    Solve,
    Sweep,
    Working,
  } from '$lib/views/pricer';
  import { useWorkbench } from '$lib/state';
  import { tinykeys } from 'tinykeys';

  const bench = useWorkbench();
  const desk = new PricerDesk(bench);

  const PANELS = { sweep: 'Sweep', working: 'Working', market: 'Market', carry: 'Carry', models: 'Models' } as const;
  type Panel = keyof typeof PANELS;
  let panel = $state<Panel>('sweep');

  $effect(() =>
    tinykeys(window, {
      w: (event) => {
        if (event.target instanceof Element && event.target.matches('input, textarea, select')) return;
        panel = 'working';
      },
    }),
  );
</script>

{#if desk.reference}
  <Fields {desk} />
  <Reading {desk} />
  <div class="flex min-h-0 min-w-0 flex-1 flex-col gap-2">
    <Solve {desk} />
    <section class="panel max-h-[45%] flex-none" aria-label="What moved">
      <h2 class="px-3 pt-2 text-[15px] font-bold">What moved</h2>
      <Moved {desk} />
    </section>
    <section class="panel flex-1" aria-label={PANELS[panel]}>
      <header class="flex items-center gap-2 px-3 py-2">
        <h2 class="text-[15px] font-bold">{PANELS[panel]}</h2>
        <span class="flex-1"></span>
        <div class="toggle-group" role="group" aria-label="Lower panel">
          {#each Object.entries(PANELS) as [name, label] (name)}
            <button aria-pressed={panel === name} onclick={() => (panel = name as Panel)}>{label}</button>
          {/each}
        </div>
      </header>
      {#if panel === 'sweep'}
        <Sweep {desk} />
      {:else if panel === 'working'}
        <Working {desk} />
      {:else if panel === 'market'}
        <Market {desk} />
      {:else if panel === 'carry'}
        <Carry />
      {:else}
        <Compared {desk} />
      {/if}
    </section>
  </div>
{:else}
  <section class="panel flex-1" aria-label="Pricer">
    <p class="m-auto max-w-96 text-center text-soft">
      {bench.problem ??
        (bench.market.current?.snapshots.length === 0
          ? 'No chain of this underlying is held: choose another one with /.'
          : 'Loading …')}
    </p>
  </section>
{/if}
