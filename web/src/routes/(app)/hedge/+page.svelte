<script lang="ts">
  import { useWorkbench } from '$lib/state';
  import { HedgedPanel } from '$lib/hedged';
  import { Split } from '$lib/ui';
  import { AheadPanel, BelowTabs, ExposurePanel, HedgeDesk, InstrumentsPanel, StepsPanel } from '$lib/views/hedge';

  const bench = useWorkbench();
  const desk = new HedgeDesk(bench);
</script>

{#snippet exposure()}<ExposurePanel {desk} />{/snippet}
{#snippet instruments()}<InstrumentsPanel {desk} />{/snippet}
{#snippet steps()}<StepsPanel {desk} />{/snippet}
{#snippet below()}
  {#if desk.params.below === 'past'}
    <section class="panel min-h-0 flex-1" aria-label="Hedged past">
      <header class="flex flex-none items-baseline gap-3 px-3 pt-2">
        <BelowTabs {desk} />
        <span class="min-w-0 truncate text-[12px] text-soft"
          >what the legs in hand would have brought with their delta kept at nothing</span
        >
      </header>
      <HedgedPanel />
    </section>
  {:else}<AheadPanel {desk} />{/if}
{/snippet}
{#snippet left()}
  <Split
    id="hedge-left"
    direction="vertical"
    label="Height of the exposure"
    size={44}
    first={exposure}
    second={instruments}
  />
{/snippet}
{#snippet right()}
  <Split id="hedge-right" direction="vertical" label="Height of the steps" size={52} first={steps} second={below} />
{/snippet}

{#if bench.market.current && bench.moment.index < 0}
  <section class="panel flex-1"><p class="m-auto text-soft">No chain is held at this moment.</p></section>
{:else}
  <Split
    id="hedge"
    direction="horizontal"
    label="Width of the exposure"
    size={28}
    least={[22, 50]}
    first={left}
    second={right}
  />
{/if}
