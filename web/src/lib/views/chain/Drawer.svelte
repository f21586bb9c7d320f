<script lang="ts">
  import { useParams } from '$lib/state';
  import PricedPanel from './PricedPanel.svelte';
  import TargetPanel from './TargetPanel.svelte';
  import ThetaPanel from './ThetaPanel.svelte';
  import { DRAWERS, PARAMS, type Drawer } from './params';

  /** @prop edition raised when a structure was kept */
  let { edition }: { edition: number } = $props();

  const params = useParams(PARAMS);
  const NAMES: Record<Drawer, string> = {
    none: 'Nothing',
    target: 'Target odds',
    theta: 'Theta board',
    priced: 'Kept structures',
  };
  const panels = DRAWERS.filter((one) => one !== 'none');
  const open = $derived(params.drawer);
</script>

<div class="flex flex-none items-center gap-1 border-t border-line px-2 py-1" role="group" aria-label="Under the chain">
  {#each panels as panel (panel)}
    <button
      class="cursor-pointer rounded px-2 py-0.5 text-[12px] {open === panel
        ? 'bg-ink font-semibold text-panel'
        : 'text-soft hover:text-ink'}"
      aria-expanded={open === panel}
      onclick={() => (params.drawer = open === panel ? 'none' : panel)}
      >{open === panel ? '▾' : '▴'} {NAMES[panel]}</button
    >
  {/each}
  <span class="flex-1"></span>
  <button
    class="cursor-pointer rounded px-2 py-0.5 text-[12px] {params.hasTape
      ? 'bg-ink font-semibold text-panel'
      : 'text-soft hover:text-ink'}"
    aria-expanded={params.hasTape}
    title="prints of the session beside the chain, each against theory at its time"
    onclick={() => (params.hasTape = !params.hasTape)}>{params.hasTape ? '▸' : '◂'} Tape</button
  >
</div>
{#if open !== 'none'}
  <section class="flex h-[228px] flex-none flex-col pt-0.5" aria-label={NAMES[open]}>
    {#if open === 'target'}<TargetPanel />
    {:else if open === 'theta'}<ThetaPanel />
    {:else}<PricedPanel {edition} />{/if}
  </section>
{/if}
