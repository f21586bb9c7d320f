<script lang="ts">
  import { untrack } from 'svelte';
  import { termState } from '@umwelt/core';
  import { linePath } from '$lib/charts/line-path';
  import { figures, shortDay } from '$lib/formats';
  import Doubt from '$lib/formats/Doubt.svelte';
  import { tabbed } from '$lib/tables';
  import { positions, RowsInView } from '$lib/ui';
  import { useWorkbench, useParams } from '$lib/state';
  import type { ScreenColumn } from '$lib/columns';
  import { HELD, RANKED_SESSIONS, type ScreenDesk } from './desk.svelte';
  import { limitText, withLimit, type LimitEnd } from './limits';
  import { nextOrder, orderOf } from './rows';
  import type { ScreenRow } from './results';
  import { Widths } from './widths.svelte';
  import { MOST_CONDITIONS, PARAMS } from './params';

  /**
   * @prop hasLimits whether the heads have room for a least and a most
   * @prop onopen called with the symbol of one that is chosen
   */
  let { desk, hasLimits, onopen }: { desk: ScreenDesk; hasLimits: boolean; onopen: (symbol: string) => void } =
    $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const widths = new Widths();
  const ROW = 30;
  /** Symbol and name: cut short where there is little room, up to the longest where there is more. */
  const NAME_WIDTHS = [212, 330] as const;
  const SPARK_HEIGHT = 16;

  const order = $derived(orderOf(params.sort));
  let breadth = $state(0);
  const others = $derived(desk.columns.reduce((sum, { key, width }) => sum + widths.of(key, width), 0));
  const nameWidth = $derived(Math.max(NAME_WIDTHS[0], Math.min(NAME_WIDTHS[1], breadth - others)));
  const total = $derived(widths.of('symbol', nameWidth) + others);

  function sortBy(key: string, isText: boolean): void {
    params.sort = nextOrder(params.sort, key, isText);
  }

  /** Moves a column by some places; what has no place further on stays. */
  function move(key: string, by: number): void {
    const { show } = params;
    const from = show.indexOf(key);
    const to = from + by;
    if (from < 0 || to < 0 || to >= show.length) return;
    const next = show.filter((other) => other !== key);
    next.splice(to, 0, key);
    params.show = next;
  }

  function onHeadKey(event: KeyboardEvent, key: string): void {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (!event.altKey || by === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    move(key, by);
  }

  function limit(column: ScreenColumn, end: LimitEnd, input: HTMLInputElement): void {
    const { formula, limit: kind } = column;
    const limited = { formula: formula!, isPercent: kind === 'percent' };
    const next = withLimit(params.keep, limited, end, input.value);
    input.setCustomValidity(next ? '' : 'a number is wanted');
    input.reportValidity();
    if (next) params.keep = next.slice(0, MOST_CONDITIONS);
  }

  function spark(values: readonly (number | null)[], width: number): string {
    return linePath(
      values.map((value) => value ?? NaN),
      positions([...values.keys()], width, 0),
      0,
      SPARK_HEIGHT,
    );
  }

  /** Why a rank is over fewer sessions; nothing where it is not. */
  function shortOf(row: ScreenRow): string | undefined {
    const held = desk.value(row, HELD) ?? 0;
    return held > 0 && held < RANKED_SESSIONS ? `over the ${figures.counted(held, 'session')} held` : undefined;
  }

  /** A cell in words, for the clipboard. */
  function textOf(row: ScreenRow, { look, formula, write, key }: ScreenColumn): string {
    if (look === 'flags')
      return desk
        .flags(row)
        .map(({ word }) => word)
        .join(' ');
    if (key === 'kind') return row.kind;
    if (key === 'family') return desk.family(row.symbol) ?? '';
    const value = formula === null || look === 'line' ? null : desk.value(row, formula);
    return value === null
      ? ''
      : key === 'price'
        ? figures.fixed(value, figures.decimalsOf(desk.tick(row.symbol)))
        : write(value);
  }
  function copiedText(): string {
    const columns = desk.columns.filter(({ look }) => look !== 'line');
    const heads = ['underlying', 'name', ...columns.map(({ label }) => label)];
    const rows = desk.rows.map((row) => [row.symbol, row.name, ...columns.map((column) => textOf(row, column))]);
    return tabbed({ columns: heads.map((name) => ({ name, type: 'text' })), rows });
  }

  const decimals = (symbol: string) => Math.max(2, figures.decimalsOf(desk.tick(symbol)));
  const STATES: Record<string, string> = { contango: 'contango', backwardation: 'backward.', flat: 'flat' };
  const ALIGN: Partial<Record<ScreenColumn['look'], string>> = { text: 'text-left', flags: 'text-left' };
  const TONES: Partial<Record<ScreenColumn['look'], string>> = {
    strong: 'font-semibold',
    implied: 'font-semibold text-implied',
    realized: 'text-realized',
  };
</script>

{#snippet handle(key: string, usual: number)}
  <span
    class="absolute inset-y-1 -right-[3px] z-10 w-[7px] cursor-col-resize border-r-2 border-transparent hover:border-focus"
    role="separator"
    aria-orientation="vertical"
    aria-label="Width of {key}"
    aria-valuenow={widths.of(key, usual)}
    tabindex="-1"
    onpointerdown={(event) => widths.drag(event, key, usual)}
    ondblclick={() => widths.reset(key)}
  ></span>
{/snippet}

{#snippet line(row: ScreenRow, column: ScreenColumn)}
  {@const width = widths.of(column.key, column.width) - 12}
  {@const values = desk.lines.of(column.formula!, row.symbol)}
  <svg
    {width}
    height={SPARK_HEIGHT + 2}
    class="inline-block align-middle"
    aria-hidden="true"
    {@attach () => {
      const [formula, symbol] = [column.formula!, row.symbol];
      // Lines that were dropped are requested again.
      if (desk.lines.of(formula, symbol) === null) untrack(() => desk.lines.want(formula, symbol));
    }}
  >
    {#if values}
      <path
        d={spark(values, width)}
        transform="translate(0 1)"
        fill="none"
        stroke={column.formula === 'price' ? 'var(--ink)' : 'var(--implied)'}
        stroke-width="1.2"
      />
    {/if}
  </svg>
{/snippet}

{#snippet cell(row: ScreenRow, column: ScreenColumn)}
  {@const { look, formula, write } = column}
  {@const value = formula === null || look === 'line' ? null : desk.value(row, formula)}
  {#if look === 'line'}
    {@render line(row, column)}
  {:else if look === 'change'}
    <span class={value === null ? '' : value < 0 ? 'text-loss' : 'text-gain'}
      >{value === null ? '' : value < 0 ? '▼' : '▲'} {write(value === null ? null : Math.abs(value))}</span
    >
  {:else if look === 'share'}
    <span class="absolute bottom-[3px] left-0 h-[3px] rounded-r-sm bg-implied/40" style="width: {100 * (value ?? 0)}%"
    ></span>
    {@const short = shortOf(row)}
    <span class="relative" title={short}>{write(value)}{short ? '*' : ''}</span>
  {:else if look === 'term'}
    <span class="flex justify-end gap-1">
      <span class="truncate font-sans">{value === null ? '' : STATES[termState(value)]}</span>
      <span class="flex-none">{write(value)}</span>
    </span>
  {:else if look === 'move'}
    {figures.plusMinus(value, decimals(row.symbol))}<Doubt
      text={figures.doubt(desk.errorOf(row, formula), decimals(row.symbol))}
      isSign
    />
    <span class="font-sans text-[11px] text-soft">{row.frontExpiry ? shortDay(row.frontExpiry) : ''}</span>
  {:else if look === 'event'}
    <span title={row.event ? `${row.event.title}, ${shortDay(row.event.start.slice(0, 10))}` : undefined}
      >{write(value)}</span
    >
  {:else if look === 'flags'}
    {#each desk.flags(row) as { word, title } (word)}
      <span class="mr-1 rounded-[3px] border border-line px-1 font-sans text-[11px]" {title}>{word}</span>
    {/each}
  {:else if column.key === 'kind'}
    {row.kind}
  {:else if column.key === 'family'}
    {desk.family(row.symbol)}
  {:else if column.key === 'price'}
    {figures.fixed(value, figures.decimalsOf(desk.tick(row.symbol)))}
  {:else}
    {write(value)}<Doubt text={figures.volDoubt(desk.errorOf(row, formula))} />
  {/if}
{/snippet}

{#snippet heads()}
  <div class="flex border-b border-line" role="row" aria-rowindex={1}>
    {#each [null, ...desk.columns] as column (column?.key ?? 'symbol')}
      {@const key = column?.key ?? 'symbol'}
      {@const isText = !column || column.look === 'text' || column.look === 'flags'}
      {@const sort = order.key === key ? order : null}
      <div
        class="head-cell relative flex-none border-0! {column ? '' : 'left-0 z-20! pl-3!'} {isText ? 'text-left!' : ''}"
        style="width: {widths.of(key, column?.width ?? nameWidth)}px"
        role="columnheader"
        title={column ? column.title : 'symbol and name'}
        aria-sort={sort ? (sort.isRising ? 'ascending' : 'descending') : 'none'}
      >
        {#if column?.look === 'line' || column?.look === 'flags'}
          <span class="block truncate">{column.label}</span>
        {:else}
          <button
            class="max-w-full cursor-pointer truncate {sort ? 'font-semibold text-ink' : ''}"
            onclick={() => sortBy(key, isText)}
            onkeydown={(event) => onHeadKey(event, key)}
            >{column?.label ?? 'underlying'}{sort ? (sort.isRising ? ' ▴' : ' ▾') : ''}</button
          >
        {/if}
        {@render handle(key, column?.width ?? nameWidth)}
      </div>
    {/each}
  </div>
  {#if hasLimits}
    <div class="flex border-b border-line" role="row">
      {#each [null, ...desk.columns] as column (column?.key ?? 'symbol')}
        <div
          class="flex-none px-1 py-0.5 text-right {column ? '' : 'sticky left-0 z-10 bg-panel pl-3! text-left!'}"
          style="width: {widths.of(column?.key ?? 'symbol', column?.width ?? nameWidth)}px"
          role="cell"
        >
          {#if !column}<span class="text-[11px] text-soft">vols and shares in per cent</span>
          {:else if column.limit}
            {@const limited = { formula: column.formula!, isPercent: column.limit === 'percent' }}
            {#each ['min', 'max'] as const as end (end)}
              <input
                class="figures mt-0.5 block w-full min-w-10 rounded-[3px] border border-line bg-panel px-1 text-right text-[11px]!"
                aria-label="{end === 'min' ? 'Least' : 'Most'} {column.label}"
                placeholder={end}
                value={limitText(params.keep, limited, end)}
                onkeydown={(event) => event.stopPropagation()}
                onchange={(event) => limit(column, end, event.currentTarget)}
              />
            {/each}
          {/if}
        </div>
      {/each}
    </div>
  {/if}
{/snippet}

{#snippet rowAt(at: number)}
  {@const row = desk.rows[at]!}
  <!-- svelte-ignore a11y_click_events_have_key_events, a11y_interactive_supports_focus -->
  <div
    class="choosable flex h-full w-full items-center border-b border-line {row.symbol === bench.context.symbol
      ? 'bg-band'
      : 'bg-panel'}"
    role="row"
    aria-rowindex={at + 2}
    data-symbol={row.symbol}
    onclick={() => onopen(row.symbol)}
  >
    <div
      class="sticky left-0 z-10 flex h-[29px] flex-none items-center bg-inherit pl-3 whitespace-nowrap"
      style="width: {widths.of('symbol', nameWidth)}px"
      role="rowheader"
    >
      <a
        class="w-[72px] flex-none font-bold"
        data-stop
        tabindex="-1"
        href="/surface{bench.address.query}"
        onclick={(event) => {
          event.preventDefault();
          event.stopPropagation();
          onopen(row.symbol);
        }}>{row.symbol}</a
      >
      <span class="mr-3 truncate text-soft" title={row.name}>{row.name}</span>
    </div>
    {#each desk.columns as column (column.key)}
      <div
        class="cell relative h-[29px] flex-none overflow-hidden leading-[29px] contain-strict {ALIGN[column.look] ??
          ''} {TONES[column.look] ?? ''}"
        style="width: {widths.of(column.key, column.width)}px"
        role="cell"
        data-column={column.key}
      >
        {@render cell(row, column)}
      </div>
    {/each}
  </div>
{/snippet}

<RowsInView
  label="Underlyings"
  count={desk.rows.length}
  height={ROW}
  {heads}
  row={rowAt}
  copied={copiedText}
  width="{total}px"
  bind:breadth
  class="min-h-0 flex-1 overflow-auto bg-panel will-change-transform contain-content"
  data-testid="universe"
>
  {#snippet none()}
    <p class="p-6 text-center text-soft">No underlying is left. Remove a condition, or look for something else.</p>
  {/snippet}
</RowsInView>
