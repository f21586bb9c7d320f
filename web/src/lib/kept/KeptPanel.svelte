<script lang="ts">
  import Undo from '@lucide/svelte/icons/undo-2';
  import { offerTable } from '$lib/exports';
  import { exactMoment, figures } from '$lib/formats';
  import { useWorkbench, problemOf } from '$lib/state';
  import { numberColumns } from '$lib/tables';
  import {
    changeStructure,
    Contested,
    deleteStructure,
    gainOf,
    keepStructures,
    legsWords,
    listenToKept,
    openKept,
    restoreStructure,
    type StructureChange,
    type KeptStructure,
  } from './structures';
  import { DataGrid, type Head, Worked } from '$lib/ui';
  import { FORMATS, readKept, writeKept } from './files';
  import { keptWork } from './work';

  /** @prop beside puts one beside what is in hand; without it that is not offered */
  let { beside }: { beside?: (row: KeptStructure) => void } = $props();

  const bench = useWorkbench();
  /** Why the last change was not made. */
  let problem = $state<string | null>(null);
  let gone = $state.raw<KeptStructure | null>(null);
  /** What was not written, since somebody else was first. */
  let contested = $state.raw<Contested | null>(null);

  /** As the stream tells them; null before it has. */
  let kept = $state.raw<readonly KeptStructure[] | null>(null);
  $effect(() =>
    listenToKept(bench.context.asof, (rows) => {
      kept = rows;
    }),
  );
  /** The tag that all in view have; without one all are. */
  let tag = $state('');
  const tags = $derived(
    [...(kept ?? []).flatMap((one) => one.tags)].sort().filter((one, i, all) => one !== all[i - 1]),
  );
  /** Those of one underlying together, as they were kept. */
  const rows = $derived(
    (kept ?? [])
      .filter((row) => tag === '' || row.tags.includes(tag))
      .toSorted((a, b) => a.symbol.localeCompare(b.symbol) || a.id - b.id),
  );

  async function attempt(work: Promise<void>): Promise<boolean> {
    try {
      await work;
      problem = contested = null;
      return true;
    } catch (error) {
      contested = error instanceof Contested ? error : null;
      problem = problemOf(error);
      return false;
    }
  }

  const tagsOf = (text: string) =>
    text
      .split(/[,;]/)
      .map((tag) => tag.trim())
      .filter(Boolean);

  async function bringIn(file: File): Promise<void> {
    const structures = await readKept(await file.text(), file.name);
    const { asof } = bench.context;
    await keepStructures({ structures, ...(asof && { asof }) });
  }

  let changing: Promise<unknown> = Promise.resolve();
  /** Changes are sent one after the other: each builds on the version that the last one returned. */
  function change(row: KeptStructure, to: StructureChange): void {
    const write = async () => {
      const seen = kept?.find(({ id, version }) => id === row.id && version > row.version) ?? row;
      const written = await changeStructure(seen, to);
      const versionOf = new Map(written.map((one) => [one.id, one]));
      kept = (kept ?? []).map((one) => ({ ...one, ...pickChanged(versionOf.get(one.id)) }));
    };
    changing = changing.then(() => attempt(write()));
  }

  /** Takes over the changed fields; the values stay those of the moment in view. */
  function pickChanged(row: KeptStructure | undefined): Partial<KeptStructure> {
    if (!row) return {};
    const { quantity, name, tags, note, version } = row;
    return { quantity, name, tags, note, version };
  }

  async function drop(row: KeptStructure): Promise<void> {
    if (await attempt(deleteStructure(row.id))) gone = row;
  }
  async function undo(row: KeptStructure): Promise<void> {
    if (await attempt(restoreStructure(row))) gone = null;
  }

  const wordsOf = ({ legs, held }: KeptStructure) =>
    `${legsWords(legs)}${held === 0 ? '' : `, ${figures.signed(held, 0)} itself`}`;
  const nowOf = ({ now }: KeptStructure) => (now && now.missing === null ? now : null);
  const scaled = (row: KeptStructure, value: number | null | undefined) =>
    (value ?? NaN) * row.quantity * (row.now?.multiplier ?? NaN);

  const NAMES = ['value', 'worst', 'mid', 'best', 'delta', 'gamma', 'theta', 'vega', 'skew', 'curvature'] as const;
  offerTable(
    'kept-structures',
    () => 'Kept structures',
    () =>
      kept && {
        columns: [
          { name: 'symbol', type: 'text' },
          { name: 'name', type: 'text' },
          { name: 'tags', type: 'text' },
          { name: 'legs', type: 'text' },
          ...numberColumns(['held', 'quantity']),
          { name: 'priced', type: 'instant' },
          ...numberColumns(['mid_then', 'value_then', ...NAMES, 'gain']),
          { name: 'note', type: 'text' },
        ],
        rows: rows.map((row) => [
          ...[
            row.symbol,
            row.name,
            row.tags.join('; '),
            wordsOf(row),
            row.held,
            row.quantity,
            row.asof,
            row.mid,
            row.value,
          ],
          ...NAMES.map((name) => nowOf(row)?.[name] ?? null),
          ...[gainOf(row), row.note],
        ]),
      },
  );

  const HEADS: readonly Head[] = [
    { label: 'structure', align: 'left' },
    { label: 'name', align: 'left' },
    { label: 'tags', align: 'left', title: 'with commas between them' },
    { label: 'quantity' },
    { label: 'mid then', title: 'mid when it was kept' },
    { label: 'value', title: 'theory on the curve' },
    { label: 'worst' },
    { label: 'mid' },
    { label: 'best' },
    { label: 'gain', title: 'mid against mid, for all of them' },
    { label: 'delta', title: 'for all of them' },
    { label: 'theta', title: 'for all of them, a day' },
    { label: 'vega', title: 'for all of them, a vol point' },
    { label: 'note', align: 'left' },
    { label: '' },
  ];
</script>

<div class="flex items-center gap-2 px-3 pb-1 text-[11.5px] text-soft">
  <span class="min-w-0 flex-1 truncate">shared by all who use this server; live on the curve</span>
  {#if tags.length > 0}
    <select
      class="choice"
      aria-label="With the tag"
      title="those that have a tag"
      bind:value={tag}
      onkeydown={(event) => event.stopPropagation()}
    >
      <option value="">all tags</option>
      {#each tags as one (one)}<option>{one}</option>{/each}
    </select>
  {/if}
  {#if problem}<span class="text-loss" role="alert">{problem}</span>{/if}
  <label class="btn btn-xs" title="legs as CSV, or structures as JSON, as they are written here">
    <input
      class="sr-only"
      type="file"
      accept=".csv,.json,text/csv,application/json"
      aria-label="Import structures"
      onchange={(event) => {
        const [file] = event.currentTarget.files ?? [];
        if (file) void attempt(bringIn(file));
        event.currentTarget.value = '';
      }}
    />import</label
  >
  {#each FORMATS as format (format)}
    <button
      class="btn btn-xs"
      disabled={rows.length === 0}
      title="all of them, with their legs, as a file that can be imported again"
      onclick={() => void writeKept(rows, format)}>{format}</button
    >
  {/each}
  {#if contested}
    {@const mine = contested}
    <button class="btn btn-xs" onclick={() => change(mine.row, mine.change)}>write mine</button>
    <button class="btn btn-xs" onclick={() => (problem = contested = null)}>keep theirs</button>
  {/if}
  {#if gone}<button class="btn btn-xs" onclick={() => undo(gone!)}><Undo size={11} /> bring it back</button>{/if}
</div>
<DataGrid
  label="Structures that are kept"
  heads={HEADS}
  {rows}
  keyOf={(row) => row.id}
  isDense
  isEdged
  testid="kept-structures"
  none={kept === null
    ? 'Loading …'
    : tag
      ? `None has the tag ${tag} any more.`
      : 'No structure is kept. Pick contracts, and keep them.'}
>
  {#snippet row(row)}
    {@const now = nowOf(row)}
    {@const gain = gainOf(row)}
    {@const decimals = bench.market.decimals}

    <th
      class="cell max-w-72 truncate text-left!"
      title="{row.name ? `${row.name}, ` : ''}kept at {exactMoment(Date.parse(row.asof), bench.market.calendar.zone)}"
    >
      <button class="cursor-pointer font-semibold" title="Pick these legs again" onclick={() => openKept(bench, row)}
        >{row.symbol} <span class="font-normal">{wordsOf(row)}</span></button
      >
    </th>
    <td class="cell text-left!"
      ><input
        class="w-24 rounded-[3px] border border-line bg-panel px-1 text-[11.5px]"
        aria-label="Name of {row.symbol} {wordsOf(row)}"
        maxlength="120"
        value={row.name}
        onkeydown={(event) => event.stopPropagation()}
        onchange={(event) => change(row, { name: event.currentTarget.value })}
      /></td
    >
    <td class="cell text-left!"
      ><input
        class="w-24 rounded-[3px] border border-line bg-panel px-1 text-[11.5px]"
        aria-label="Tags of {row.symbol} {wordsOf(row)}"
        value={row.tags.join(', ')}
        onkeydown={(event) => event.stopPropagation()}
        onchange={(event) => change(row, { tags: tagsOf(event.currentTarget.value) })}
      /></td
    >
    <td class="cell"
      ><input
        class="figures w-14 rounded-[3px] border border-line bg-panel px-1 text-right text-[11px]!"
        type="number"
        step="1"
        aria-label="Quantity of {row.symbol} {wordsOf(row)}"
        value={row.quantity}
        onkeydown={(event) => event.stopPropagation()}
        onchange={(event) => {
          const quantity = Math.round(event.currentTarget.valueAsNumber);
          if (Number.isFinite(quantity)) change(row, { quantity });
        }}
      /></td
    >
    <td class="cell">{figures.fixed(row.mid, decimals)}</td>
    {#if now}
      {@const cells = [
        { at: 'value', text: figures.fixed(now.value, decimals), look: 'font-semibold' },
        { at: 'mid', text: figures.fixed(now.worst, decimals) },
        { at: 'mid', text: figures.fixed(now.mid, decimals) },
        { at: 'mid', text: figures.fixed(now.best, decimals) },
        { at: 'gain', text: figures.signed(gain, 0), look: gain < 0 ? 'text-loss' : 'text-gain' },
        { at: 'delta', text: figures.fixed(scaled(row, now.delta), 2) },
        { at: 'theta', text: figures.fixed(scaled(row, now.theta), 1) },
        { at: 'vega', text: figures.fixed(scaled(row, now.vega), 1) },
      ]}
      {#each cells as { at, text, look }, i (i)}
        <td class="cell {look ?? ''}"
          ><Worked open={() => (bench.dialogs.work = keptWork(row, wordsOf(row), at))}>{text}</Worked></td
        >
      {/each}
    {:else}
      <td class="cell text-left! text-loss" colspan="8">{row.now?.missing ?? 'nothing is held of it'}</td>
    {/if}
    <td class="cell text-left!"
      ><input
        class="w-full min-w-28 rounded-[3px] border border-line bg-panel px-1 text-[11.5px]"
        aria-label="Note on {row.symbol} {wordsOf(row)}"
        maxlength="2000"
        value={row.note}
        onkeydown={(event) => event.stopPropagation()}
        onchange={(event) => change(row, { note: event.currentTarget.value })}
      /></td
    >
    <td class="cell whitespace-nowrap"
      >{#if beside && row.symbol === bench.context.symbol}<button
          class="btn btn-xs"
          aria-label="Put {row.symbol} {wordsOf(row)} beside"
          title="beside what is in hand, with its curves and its facts"
          onclick={() => beside(row)}>beside</button
        >
      {/if}<button class="btn btn-xs" aria-label="Delete {row.symbol} {wordsOf(row)}" onclick={() => drop(row)}
        >delete</button
      ></td
    >
  {/snippet}
</DataGrid>
