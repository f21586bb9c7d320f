<script lang="ts">
  import { useParams } from '$lib/state';
  import { DRAWER_NAMES, DRAWERS, PARAMS } from './params';

  const params = useParams(PARAMS);
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
      >{open === panel ? '▾' : '▴'} {DRAWER_NAMES[panel]}</button
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
