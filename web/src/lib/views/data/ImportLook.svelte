<script lang="ts">
  import { figures } from '$lib/formats';
  import { DataGrid, type Head } from '$lib/ui';
  import type { DataDesk, Settings } from './desk.svelte';
  import { countWords, isMoving, matched, shareRead, sizeWords, stateWords, type Layouts } from './imports';

  let { desk, layouts }: { desk: DataDesk; layouts: Layouts } = $props();

  let acceptBadRows = $state(false);

  const SHOWN_FAULTS = 50;
  const preview = $derived(desk.preview);
  const record = $derived(desk.record);
  const kinds = $derived(Object.keys(layouts));
  const ours = $derived.by(() => {
    const layout = preview ? layouts[preview.kind] : undefined;
    return layout ? [...layout.required, ...layout.optional] : [];
  });
  const required = $derived(new Set(preview ? layouts[preview.kind]?.required : []));
  const settings = $derived<Settings>(
    preview ? { kind: preview.kind, columns: preview.columns, conventions: preview.conventions } : {},
  );
  const isReady = $derived(preview !== null && preview.missing.length === 0 && preview.open.length === 0);
  const isWorking = $derived(record !== null && isMoving(record));
  const isOver = $derived(record?.status === 'done' || record?.status === 'deriving');
  const asked = $derived(preview?.open.map(({ convention }) => convention) ?? []);

  const again = (change: Settings) => void desk.readAs({ ...settings, ...change });
  const convene = (name: string, value: string) =>
    again({ conventions: { ...preview!.conventions, [name]: value === '' ? undefined : value } });

  const DATES = { iso: '2031-03-13', dmy: '13.03.2031, day first', mdy: '03/13/2031, month first' };

  const heads = $derived<readonly Head[]>([
    { label: 'row' },
    ...(preview?.header ?? []).map((label): Head => ({ label, hasParts: true, align: 'left', class: 'align-top' })),
  ]);
</script>

<div class="flex min-h-0 flex-1 flex-col" data-testid="look">
  <div class="flex flex-wrap items-center gap-x-4 gap-y-1 px-3 pb-2">
    {#if preview}
      <label class="flex items-center gap-1.5">
        <span class="text-soft">{preview.format.toUpperCase()} of</span>
        <select
          class="select select-xs w-32"
          aria-label="Kind of file"
          value={preview.kind}
          onchange={({ currentTarget }) => again({ kind: currentTarget.value as Settings['kind'] })}
        >
          {#each kinds as kind (kind)}<option value={kind}>{kind}</option>{/each}
        </select>
      </label>
      <label class="flex items-center gap-1.5">
        <span class={asked.includes('decimal') ? 'font-semibold text-loss' : 'text-soft'}>decimals</span>
        <select
          class="select select-xs w-24"
          aria-label="Decimals"
          value={preview.conventions.decimal ?? (asked.includes('decimal') ? '' : '.')}
          onchange={({ currentTarget }) => convene('decimal', currentTarget.value)}
        >
          {#if asked.includes('decimal')}<option value="">choose</option>{/if}
          <option value=".">1234.5</option>
          <option value=",">1234,5</option>
        </select>
      </label>
      <label class="flex items-center gap-1.5">
        <span class={asked.includes('dates') ? 'font-semibold text-loss' : 'text-soft'}>days</span>
        <select
          class="select select-xs w-44"
          aria-label="Days"
          value={preview.conventions.dates ?? (asked.includes('dates') ? '' : 'iso')}
          onchange={({ currentTarget }) => convene('dates', currentTarget.value)}
        >
          {#if asked.includes('dates')}<option value="">choose</option>{/if}
          {#each Object.entries(DATES) as [value, words] (value)}<option {value}>{words}</option>{/each}
        </select>
      </label>
      <label class="flex items-center gap-1.5">
        <span class="text-soft">times without a zone</span>
        <select
          class="select select-xs w-40"
          aria-label="Zone"
          value={preview.conventions.zone ?? ''}
          onchange={({ currentTarget }) => convene('zone', currentTarget.value)}
        >
          <option value="">of the exchange</option>
          <option value="UTC">UTC</option>
          {#each Intl.supportedValuesOf('timeZone') as zone (zone)}<option value={zone}>{zone}</option>{/each}
        </select>
      </label>
    {/if}
  </div>
  <div class="min-h-0 flex-1 overflow-auto border-y border-line">
    {#if preview}
      <DataGrid
        label="First rows of the file"
        {heads}
        rows={preview.rows}
        keyOf={(row) => row.number}
        isEdged
        area="w-max"
        testid="preview"
      >
        {#snippet head({ label: name }: Head)}
          {@const own = preview!.columns[name] ?? ''}
          <div class="truncate {own ? 'font-semibold text-ink' : ''}">{name}</div>
          <select
            class="select select-xs mt-0.5 w-28 {own ? '' : 'text-faint'}"
            aria-label="What {name} stands for"
            value={own}
            onchange={({ currentTarget }) =>
              again({ columns: matched(preview!.columns, name, currentTarget.value || null) })}
          >
            <option value="">left aside</option>
            {#each ours as column (column)}
              <option value={column}>{column}{required.has(column) ? ' *' : ''}</option>
            {/each}
          </select>
        {/snippet}
        {#snippet row(row)}
          <td class="cell text-faint">{row.number}</td>
          {#each row.read as text, i (i)}
            {@const isKnown = preview.columns[preview.header[i] ?? ''] !== undefined}
            <td
              class="cell text-left! {isKnown ? '' : 'text-faint'}"
              title={row.cells[i] === text ? undefined : `${row.cells[i]} in the file`}
            >
              {text}{#if isKnown && row.cells[i]?.trim() !== text}<span class="text-implied" aria-hidden="true">′</span
                >{/if}
            </td>
          {/each}
        {/snippet}
      </DataGrid>
    {:else}
      <p class="p-6 text-center text-soft">
        {desk.problem ? 'There are no rows to show.' : 'Reading the first rows …'}
      </p>
    {/if}
  </div>
  <div class="flex items-start gap-3 px-3 py-2">
    <div class="min-w-0 flex-1" role="status" data-testid="verdict">
      {#if isWorking && record}
        <progress class="progress h-1.5 w-40 align-middle text-implied" value={shareRead(record) ?? undefined} max="1"
        ></progress>
        {stateWords(record)}, {figures.count(record.rows)} rows read
      {:else if preview && preview.missing.length > 0}
        <span class="text-loss">◆ Nothing stands for <b>{preview.missing.join(', ')}</b> yet.</span> Choose above what each
        column is.
      {:else if preview && preview.open.length > 0}
        {@const { example, column } = preview.open[0]!}
        <span class="text-loss">◆ “{example}” in {column} can be read in two ways.</span> Say above which.
      {:else if record?.status === 'checked' || isOver}
        <span class="text-gain">●</span>
        {isOver ? 'Imported' : 'Checked'}, {figures.counted(record!.rows, 'row')}: {countWords(record!)}.
        {#if record!.badRows > 0}
          <b class="text-loss">{figures.counted(record!.badRows, 'bad row')}.</b>
        {/if}
        {#if record!.ignoredColumns.length > 0}
          <span class="text-soft">Left aside: {record!.ignoredColumns.join(', ')}.</span>
        {/if}
      {:else if record?.detail}
        <span class="text-loss">◆ {record.detail}.</span>
      {:else if preview}
        <span class="text-soft">
          {preview.isSure ? 'The columns are known.' : 'The columns are guessed; look whether they are right.'} A mark ′ shows
          a cell that is written otherwise in the file.
        </span>
      {/if}
      {#if record && record.errors.length > 0 && !isWorking}
        <div class="mt-1 max-h-28 overflow-auto" data-testid="faults">
          <table class="text-[12px]">
            <tbody>
              {#each record.errors.slice(0, SHOWN_FAULTS) as fault (fault.row + fault.column)}
                <tr>
                  <td class="cell text-soft">row {fault.row}</td>
                  <td class="px-1.5">{fault.column}</td>
                  <td class="cell max-w-40 truncate text-left!">“{fault.value}”</td>
                  <td class="px-1.5">{fault.reason}</td>
                </tr>
              {/each}
            </tbody>
          </table>
        </div>
        <a class="link text-[12px]" href="/api/v1/imports/{record.id}/errors?format=csv" download>
          all {figures.count(Math.min(record.badRows, record.errors.length))} as CSV
        </a>
      {/if}
    </div>
    {#if record && !isOver}
      {#if record.badRows > 0 && !isWorking}
        <label class="flex items-center gap-1.5 py-1 whitespace-nowrap">
          <input type="checkbox" class="checkbox checkbox-xs" bind:checked={acceptBadRows} /> without the bad rows
        </label>
      {/if}
      {#if isWorking}
        <button class="btn btn-sm" onclick={() => desk.stop(record.id)}>Stop</button>
      {:else}
        <button class="btn btn-sm" disabled={!isReady} onclick={() => desk.check(record.id, settings)}>Check</button>
        <button
          class="btn btn-primary btn-sm"
          disabled={!isReady || (record.badRows > 0 && !acceptBadRows)}
          onclick={() => desk.importFile(record.id, { ...settings, acceptBadRows })}>Import</button
        >
      {/if}
    {/if}
    <button class="btn btn-sm" onclick={() => desk.look(null)}>Close</button>
  </div>
  {#if record}<p class="sr-only">{record.file}, {sizeWords(record.bytes)}</p>{/if}
</div>
