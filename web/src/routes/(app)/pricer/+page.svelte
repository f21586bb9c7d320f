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
  import { Toggles, Split } from '$lib/ui';

  const bench = useWorkbench();
  const desk = new PricerDesk(bench);

  const PANELS = { sweep: 'Sweep', working: 'Working', market: 'Market', carry: 'Carry', models: 'Models' } as const;
  type Panel = keyof typeof PANELS;
  let panel = $state<Panel>('sweep');
  const hasMoved = $derived((desk.move?.move.steps.length ?? 0) > 0);

  $effect(() =>
    tinykeys(window, {
      w: (event) => {
        if (event.target instanceof Element && event.target.matches('input, textarea, select')) return;
        panel = 'working';
      },
    }),
  );
</script>

{#snippet moved()}
  <section class="panel {hasMoved ? 'flex-1' : 'flex-none'}" aria-label="What moved">
    <h2 class="px-3 pt-2 text-[15px] font-bold">What moved</h2>
    <Moved {desk} />
  </section>
{/snippet}
{#snippet lower()}
  <section class="panel flex-1" aria-label={PANELS[panel]}>
    <header class="flex items-center gap-2 px-3 py-2">
      <h2 class="text-[15px] font-bold">{PANELS[panel]}</h2>
      <span class="flex-1"></span>
      <Toggles
        label="Lower panel"
        options={Object.keys(PANELS) as Panel[]}
        words={(name) => PANELS[name]}
        bind:value={panel}
      />
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
{/snippet}
{#snippet contract()}
  <div class="flex min-w-0 flex-1 gap-2">
    <Fields {desk} />
    <Reading {desk} />
  </div>
{/snippet}
{#snippet questions()}
  <div class="flex min-h-0 min-w-0 flex-1 flex-col gap-2">
    <Solve {desk} />
    {#if !hasMoved}{@render moved()}{/if}
    <Split
      id="pricer-questions"
      direction="vertical"
      label="Height of what moved"
      size={38}
      first={hasMoved ? moved : null}
      second={lower}
    />
  </div>
{/snippet}

{#if desk.reference}
  <Split
    id="pricer"
    direction="horizontal"
    label="Width of the contract"
    size={48}
    least={[36, 30]}
    first={contract}
    second={questions}
  />
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
