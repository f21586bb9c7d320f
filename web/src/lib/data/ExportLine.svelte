<script lang="ts">
  import Download from '@lucide/svelte/icons/download';
  import { useWorkbench } from '$lib/state';
  import { EXPORT_CHOICES, exportPath, formatsOf } from './exports';

  const bench = useWorkbench();

  let what = $state('chain');
  let of = $state<'one' | 'all'>('one');
  let when = $state<'moment' | 'all'>('moment');
  let format = $state('csv');

  const formats = $derived(formatsOf(what));
  const chosen = $derived(formats.includes(format) ? format : 'csv');
  const choice = $derived(EXPORT_CHOICES.find(({ name }) => name === what)!);
  const path = $derived(
    exportPath(what, chosen, {
      symbol: choice.hasSymbol && of === 'one' ? bench.context.symbol : null,
      asof: choice.hasMoment && when === 'moment' ? (bench.stored?.asof ?? null) : null,
    }),
  );
</script>

<div class="flex items-center gap-2 border-t border-line px-3 py-1.5" role="group" aria-label="Export">
  <b class="text-[13px]">Export</b>
  <select class="select select-xs w-32" aria-label="What to export" bind:value={what}>
    {#each EXPORT_CHOICES as { name } (name)}<option value={name}>{name}</option>{/each}
  </select>
  {#if choice.hasSymbol}
    <select class="select select-xs w-36" aria-label="Of which underlyings" bind:value={of}>
      <option value="one">of {bench.context.symbol}</option>
      <option value="all">of all underlyings</option>
    </select>
  {/if}
  {#if choice.hasMoment}
    <select class="select select-xs w-36" aria-label="Of which moments" bind:value={when}>
      <option value="moment">at this moment</option>
      <option value="all">of all moments</option>
    </select>
  {/if}
  <select class="select select-xs w-24" aria-label="Format" bind:value={format}>
    {#each formats as name (name)}<option value={name}>{name}</option>{/each}
  </select>
  <span class="flex-1"></span>
  <a class="btn btn-sm" href={path} download><Download size={14} />Download</a>
</div>
