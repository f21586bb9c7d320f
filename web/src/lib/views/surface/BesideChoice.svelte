<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import { besideColor } from './charts/beside';
  import { useTheme, useWorkbench, useParams } from '$lib/state';
  import { MOST_BESIDE, PARAMS } from './params';

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const theme = useTheme();
  const { context } = bench;
  const others = $derived(
    (bench.market.universe ?? [])
      .filter(({ symbol }) => symbol !== bench.context.symbol && !params.beside.includes(symbol))
      // Relatives first: they are what a curve is held against.
      .toSorted(
        (a, b) => Number(isRelative(b.family)) - Number(isRelative(a.family)) || a.symbol.localeCompare(b.symbol),
      ),
  );
  const isRelative = (family: string | null) => family !== null && family === bench.market.underlying?.family;

  function add(select: HTMLSelectElement): void {
    if (select.value) params.beside = [...params.beside, select.value];
    select.value = '';
  }
</script>

<span class="flex items-center gap-1 font-[family-name:var(--font-sans)]">
  {#each params.beside.filter((symbol) => symbol !== context.symbol) as symbol, i (symbol)}
    <button
      class="flex cursor-pointer items-center gap-0.5 rounded border border-line px-1 hover:bg-band"
      style="color: color-mix(in srgb, {besideColor(i, theme.tokens)} 45%, var(--ink))"
      aria-label="Leave {symbol} out"
      onclick={() => (params.beside = params.beside.filter((other) => other !== symbol))}
      >{symbol}<X size={10} /></button
    >
  {/each}
  {#if params.beside.length < MOST_BESIDE}
    <select
      class="w-[84px] cursor-pointer rounded-[5px] border border-line bg-panel px-0.5 text-[11px]"
      aria-label="Compare with"
      title="draw the curves of another underlying beside, at the same moneyness"
      onchange={(event) => add(event.currentTarget)}
    >
      <option value="">compare …</option>
      {#each others as { symbol, name } (symbol)}<option value={symbol}>{symbol} · {name}</option>{/each}
    </select>
  {/if}
</span>
