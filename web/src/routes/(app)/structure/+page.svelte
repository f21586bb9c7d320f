<script lang="ts">
  import { FactsPanel, LegsPanel, ProfilePanel, Shelf, StructureDesk, UnderPanel } from '$lib/views/structure';
  import { useWorkbench } from '$lib/state';
  import { Split } from '$lib/ui';

  const bench = useWorkbench();
  const desk = new StructureDesk(bench);
</script>

{#snippet profile()}<ProfilePanel {desk} />{/snippet}
{#snippet legs()}<LegsPanel {desk} />{/snippet}
{#snippet facts()}<FactsPanel {desk} />{/snippet}
{#snippet under()}<UnderPanel {desk} />{/snippet}
{#snippet left()}
  <Split
    id="structure-left"
    direction="vertical"
    label="Height of the profile"
    size={72}
    first={profile}
    second={under}
  />
{/snippet}
{#snippet right()}
  <Split id="structure-right" direction="vertical" label="Height of the legs" size={42} first={legs} second={facts} />
{/snippet}

{#if bench.market.current && bench.moment.index < 0}
  <section class="panel flex-1"><p class="m-auto text-soft">No chain is held at this moment.</p></section>
{:else if desk.hand.legs.length === 0}
  <section class="panel flex-1" aria-label="Structure">
    <div class="m-auto flex max-w-[52ch] flex-col items-center gap-3 px-6 text-center text-soft">
      <p class="m-0" data-testid="structure-empty">
        No legs are in hand. In the Chain + buys and − sells the contract in focus (ctrl-click and shift-click with the
        pointer); what is picked there stands here. Or take a structure of the trade:
      </p>
      <Shelf />
    </div>
  </section>
{:else}
  <Split
    id="structure"
    direction="horizontal"
    label="Width of the profile"
    size={66}
    least={[40, 26]}
    first={left}
    second={right}
  />
{/if}
