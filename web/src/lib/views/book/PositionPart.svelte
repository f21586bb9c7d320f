<script lang="ts">
  import { call } from '$lib/api/call';
  import { contractOf, contractWords, type BookLeg } from '$lib/book';
  import { clockTime, figures, momentDay } from '$lib/formats';
  import { useWorkbench } from '$lib/state';
  import { DataGrid, NumberField, type Head } from '$lib/ui';
  import type { BookDesk } from './desk.svelte';

  /** One position: its legs with what they are worth, what was traded of it, and what can be done. */
  let { desk }: { desk: BookDesk } = $props();

  const bench = useWorkbench();
  const zone = $derived(bench.market.calendar.zone);
  const detail = $derived(desk.detail);
  const warnings = $derived((desk.worth?.warnings ?? []).filter(({ position }) => position === desk.params.positionId));

  const LEG_HEADS: readonly Head[] = [
    { label: 'leg', align: 'left' },
    { label: 'held' },
    { label: 'entry' },
    { label: 'bid' },
    { label: 'mid' },
    { label: 'ask' },
    { label: 'theory', title: 'on the curve' },
    { label: 'vol' },
    { label: 'delta', title: 'of one unit' },
    { label: 'vega', title: 'of one unit, a point' },
    { label: 'value' },
    { label: 'since entry' },
    { label: '', align: 'left' },
  ];
  const FILL_HEADS: readonly Head[] = [
    { label: 'traded', align: 'left' },
    { label: 'contract', align: 'left' },
    { label: 'quantity' },
    { label: 'price' },
    { label: 'fee' },
    { label: '' },
  ];
  const digits = (value: number | null) => (value !== null && Math.abs(value) < 1 ? 4 : 2);
  /** As the largest price of its legs is written. */
  const decimals = $derived(
    digits((detail?.legs ?? []).reduce((most, { entry, theory }) => Math.max(most, entry ?? theory ?? 0), 0)),
  );
  const tagsOf = (text: string) =>
    text
      .split(/[,;]/)
      .map((tag) => tag.trim())
      .filter(Boolean);

  function change(to: { name?: string; tags?: string[]; note?: string }): void {
    if (!detail) return;
    void desk.change(
      call('PUT /positions/{id}', { path: { id: detail.id }, body: { version: detail.version, ...to } }),
    );
  }
  function drop(): void {
    if (!detail) return;
    desk.params.positionId = 0;
    desk.params.shownBelow = 'positions';
    void desk.change(call('DELETE /positions/{id}', { path: { id: detail.id } }));
  }
  async function settle(leg: BookLeg, price: number): Promise<void> {
    const { symbol, expiry, settlement } = leg;
    if (expiry === null || settlement === null) return;
    await desk.change(
      call('PUT /settlements', { body: { symbol, expiry, settlement, price } }).then(() => ({
        ...{ id: leg.position, words: `${symbol} of ${expiry} settled at ${price}` },
      })),
    );
  }
  const stop = (event: KeyboardEvent) => event.key !== 'Escape' && event.stopPropagation();
  /** Sold options that may be exercised early. */
  const isAssignable = (leg: BookLeg) => leg.quantity < 0 && leg.side !== null && leg.exercise === 'american';
</script>

{#if !detail}
  <p class="m-auto text-soft">{desk.params.positionId === 0 ? 'Choose a position.' : (desk.problem ?? 'Loading …')}</p>
{:else}
  <div class="flex flex-none flex-wrap items-center gap-1.5 px-3 py-1 text-[12px]">
    <input
      class="w-36 rounded-[3px] border border-line bg-panel px-1"
      aria-label="Name of the position"
      maxlength="120"
      value={detail.name}
      onkeydown={stop}
      onchange={(event) => change({ name: event.currentTarget.value })}
    />
    <input
      class="w-20 rounded-[3px] border border-line bg-panel px-1"
      aria-label="Tags of the position"
      placeholder="tags"
      value={detail.tags.join(', ')}
      onkeydown={stop}
      onchange={(event) => change({ tags: tagsOf(event.currentTarget.value) })}
    />
    <input
      class="min-w-16 flex-1 rounded-[3px] border border-line bg-panel px-1"
      aria-label="Note on the position"
      placeholder="note"
      maxlength="2000"
      value={detail.note}
      onkeydown={stop}
      onchange={(event) => change({ note: event.currentTarget.value })}
    />
    <button class="btn btn-xs" disabled={detail.lots === 0} onclick={() => desk.close()}>close</button>
    <button
      class="btn btn-xs"
      disabled={detail.lots === 0}
      title="to the next expiry that is listed"
      onclick={() => void desk.roll()}>roll</button
    >
    <button class="btn btn-xs" title="further trades of it" onclick={() => desk.adjust()}>adjust</button>
    <a class="btn btn-xs" href="/structure" onclick={() => desk.take()}>in Structure</a>
    <a class="btn btn-xs" href="/hedge" onclick={() => desk.take()}>hedge</a>
    <button class="btn btn-xs" onclick={drop}>delete</button>
  </div>
  {#each warnings as { words } (words)}<p class="m-0 flex-none px-3 text-[12px] text-loss" role="note">
      {words}
    </p>{/each}
  <div class="flex min-h-0 flex-1 flex-col gap-1">
    <DataGrid
      label="Legs"
      heads={LEG_HEADS}
      rows={detail.legs}
      keyOf={(_, i) => i}
      isDense
      isEdged
      testid="position-legs"
      area="min-h-12 flex-[1.2] overflow-auto"
    >
      {#snippet row(leg)}
        {@const d = decimals}
        <th class="px-1.5 text-left text-[12px] font-normal whitespace-nowrap {leg.quantity === 0 ? 'text-soft' : ''}"
          >{contractWords(contractOf(leg))}</th
        >
        <td class="cell">{figures.signed(leg.quantity, 0)}</td>
        {#if leg.missing}
          <td class="cell text-left! text-loss" colspan="9"
            >{leg.missing}{#if leg.missing.startsWith('it has ended')}: settled at
              <NumberField
                label="Price that {contractWords(contractOf(leg))} settled at"
                bind:value={() => NaN, (price) => void settle(leg, price)}
                min={0}
                max={1e12}
                class="w-20"
              />{/if}</td
          >
        {:else}
          <td class="cell">{leg.entry === null ? '' : figures.fixed(leg.entry, d)}</td>
          <td class="cell text-soft">{leg.quantity === 0 ? '' : figures.fixed(leg.bid, d)}</td>
          <td class="cell">{leg.quantity === 0 ? '' : figures.fixed(leg.mid, d)}</td>
          <td class="cell text-soft">{leg.quantity === 0 ? '' : figures.fixed(leg.ask, d)}</td>
          <td
            class="cell {leg.byCurve ? 'font-semibold' : ''}"
            title={leg.byCurve ? 'worth its curve: its quotes are no market' : undefined}
            >{leg.quantity === 0 ? '' : figures.fixed(leg.theory, d)}</td
          >
          <td class="cell">{leg.vol === null ? '' : figures.vol(leg.vol, 1)}</td>
          <td class="cell">{leg.quantity === 0 ? '' : figures.signed(leg.delta, 3)}</td>
          <td class="cell">{leg.vega === null || leg.quantity === 0 ? '' : figures.fixed(leg.vega, d)}</td>
          <td class="cell">{leg.quantity === 0 ? 'closed' : figures.signed(leg.value, 0)}</td>
        {/if}
        <td class="cell {(leg.sinceEntry ?? 0) < 0 ? 'text-loss' : 'text-gain'}">{figures.signed(leg.sinceEntry, 0)}</td
        >
        <td class="px-1.5 whitespace-nowrap"
          >{#if leg.quantity !== 0 && !leg.missing}<button
              class="btn btn-xs"
              aria-label="Close {contractWords(contractOf(leg))}"
              onclick={() => desk.close(leg)}>close</button
            >{/if}{#if isAssignable(leg)}
            <button
              class="btn btn-xs"
              aria-label="{contractWords(contractOf(leg))} was assigned"
              title="exercised early against us"
              onclick={() => desk.assign(leg)}>assigned</button
            >{/if}</td
        >
      {/snippet}
    </DataGrid>
    <DataGrid
      label="Trades"
      heads={FILL_HEADS}
      rows={detail.fills}
      keyOf={({ id }) => id}
      isDense
      isEdged
      testid="position-fills"
      area="min-h-12 flex-1 overflow-auto border-t border-line"
    >
      {#snippet row(fill)}
        <td class="cell text-left!">{momentDay(Date.parse(fill.time), zone)} {clockTime(fill.time, zone)}</td>
        <td class="px-1.5 whitespace-nowrap"
          >{contractWords(contractOf(fill))}{fill.assigned ? ', assigned' : ''}{fill.tag ? ` · ${fill.tag}` : ''}</td
        >
        <td class="cell">{figures.signed(fill.quantity, 0)}</td>
        <td class="cell">{figures.fixed(fill.price, Math.max(digits(fill.price), 3))}</td>
        <td class="cell text-soft">{fill.fee === 0 ? '' : figures.fixed(fill.fee, 2)}</td>
        <td class="cell"
          ><button
            class="btn btn-xs"
            aria-label="Delete the trade of {contractWords(contractOf(fill))}"
            onclick={() => void desk.change(call('DELETE /fills/{id}', { path: { id: fill.id } }))}>delete</button
          ></td
        >
      {/snippet}
    </DataGrid>
  </div>
{/if}
