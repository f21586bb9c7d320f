<script lang="ts">
  import { SETTLEMENTS, type ContractId } from '@umwelt/core';
  import { call } from '$lib/api/call';
  import { exactMoment, figures } from '$lib/formats';
  import { problemOf, useWorkbench } from '$lib/state';
  import { Dialog, notify, NumberField, Toggles } from '$lib/ui';
  import { legOf, loadBooks, type Book, type Position } from './books';
  import { bookEdition } from './edition.svelte';
  import { contractWords, FILLS, priceOf, type FillAt, type Ticket, type TicketRow } from './tickets';

  /** Trades that are about to be booked: prices by a fill, each of which can be typed over. */
  let { ticket, onclose }: { ticket: Ticket; onclose: () => void } = $props();

  const bench = useWorkbench();
  let isOpen = $state(true);
  let fill = $state<FillAt>('worst');
  // svelte-ignore state_referenced_locally
  let rows = $state<TicketRow[]>(ticket.rows.map((row) => ({ ...row })));
  // svelte-ignore state_referenced_locally
  let name = $state(ticket.name);
  let fee = $state(0);
  let books = $state.raw<Book[] | null>(null);
  let bookId = $state(0);
  /** Positions of the book that the trades may belong to; 0 for a new one. */
  let others = $state.raw<readonly Position[]>([]);
  let intoId = $state(0);
  let problem = $state<string | null>(null);
  let isBusy = $state(false);
  const zone = $derived(bench.market.calendar.zone);

  $effect(() => {
    loadBooks().then(
      (loaded) => {
        books = loaded;
        bookId ||= loaded[0]?.id ?? 0;
      },
      (error: unknown) => (problem = problemOf(error)),
    );
  });
  $effect(() => {
    if (!isOpen) onclose();
  });
  $effect(() => {
    if (bookId === 0 || ticket.positionId !== null) return;
    const query = { book: bookId, asof: ticket.asof };
    call('GET /positions', { query }).then(
      ({ positions }) => (others = positions.filter(({ opened, closed }) => opened !== null && closed === null)),
      (error: unknown) => (problem = problemOf(error)),
    );
  });

  /** Contracts of a new row: as they are typed. */
  let typed = $state({
    kind: 'option' as 'option' | 'underlying',
    expiry: '',
    settlement: 'pm' as 'am' | 'pm',
    strike: 0,
    side: 'call' as 'call' | 'put',
    quantity: 1,
    price: 0,
  });
  let symbol = $state('');
  // svelte-ignore state_referenced_locally
  symbol = ticket.symbol;

  function add(): void {
    const contract: ContractId =
      typed.kind === 'underlying'
        ? { symbol, underlying: true }
        : { symbol, expiry: typed.expiry, settlement: typed.settlement, strike: typed.strike, side: typed.side };
    rows.push({ contract, quantity: typed.quantity, bid: NaN, ask: NaN, price: typed.price });
  }

  const total = $derived(rows.reduce((sum, row) => sum + row.quantity * priceOf(row, fill), 0));
  const hasAll = $derived(
    rows.length > 0 && rows.every((row) => row.quantity !== 0 && Number.isFinite(priceOf(row, fill))),
  );

  async function book(): Promise<void> {
    isBusy = true;
    problem = null;
    const fills = rows.map((row) => ({
      ...{ time: ticket.asof, leg: legOf(row.contract), quantity: row.quantity, price: priceOf(row, fill) },
      fee: Number((fee * Math.abs(row.quantity)).toFixed(6)),
      ...(row.closes && { closes: true }),
      ...(row.isAssigned && { assigned: true }),
    }));
    try {
      let said: { words: string };
      const into = ticket.positionId ?? (intoId || null);
      if (into !== null) {
        const body = { fills, ...(ticket.words && { words: ticket.words }) };
        said = await call('POST /positions/{id}/fills', { path: { id: into }, body });
      } else {
        if (bookId === 0) {
          const currency = bench.market.underlying?.currency ?? 'ICR';
          bookId = (await call('POST /books', { body: { name: 'Main', currency } })).id;
        }
        said = await call('POST /positions', { body: { book: bookId, symbol, name, fills } });
      }
      bookEdition.count++;
      notify(said.words);
      isOpen = false;
    } catch (error) {
      problem = problemOf(error);
    } finally {
      isBusy = false;
    }
  }
</script>

<Dialog title={ticket.title} bind:isOpen>
  <div class="flex flex-col gap-2 text-[12px]">
    <div class="flex flex-wrap items-center gap-2">
      {#if ticket.positionId === null}
        <label class="flex items-center gap-1 text-soft"
          >book
          <select class="choice" aria-label="Book" bind:value={bookId}>
            {#each books ?? [] as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
            {#if books?.length === 0}<option value={0}>Main, a new one</option>{/if}
          </select></label
        >
        <select class="choice max-w-40" aria-label="Position" bind:value={intoId}>
          <option value={0}>a new position</option>
          {#each others as one (one.id)}<option value={one.id}>{one.name}</option>{/each}
        </select>
        <label class="flex min-w-52 flex-1 items-center gap-1 text-soft"
          >called
          <input
            class="min-w-0 flex-1 rounded-[3px] border border-line bg-panel px-1 py-0.5 text-ink"
            aria-label="Name of the position"
            maxlength="120"
            data-first
            disabled={intoId !== 0}
            bind:value={name}
            onkeydown={(event) => event.key !== 'Escape' && event.stopPropagation()}
          /></label
        >
      {/if}
      <Toggles label="Booked at" options={FILLS} bind:value={fill} />
      <label class="flex items-center gap-1 text-soft" title="in money, for each contract"
        >fee <NumberField label="Fee of a contract" bind:value={fee} min={0} max={1e6} class="w-14" /></label
      >
    </div>
    <p class="m-0 text-soft">
      traded at {exactMoment(Date.parse(ticket.asof), zone)}; bought is plus
    </p>
    <table class="w-full border-collapse" data-testid="ticket-rows">
      <thead>
        <tr class="text-[11px] text-soft">
          <th class="text-left font-normal">contract</th>
          <th class="text-right font-normal">quantity</th>
          <th class="text-right font-normal">bid</th>
          <th class="text-right font-normal">ask</th>
          <th class="text-right font-normal">price</th>
          <th><span class="sr-only">take out</span></th>
        </tr>
      </thead>
      <tbody>
        {#each rows as row, i (i)}
          <tr class="border-t border-line">
            <td class="py-0.5">{contractWords(row.contract)}{row.isAssigned ? ', assigned' : ''}</td>
            <td class="text-right"
              ><NumberField
                label="Quantity of {contractWords(row.contract)}"
                bind:value={rows[i]!.quantity}
                min={-1e9}
                max={1e9}
                class="w-16"
              /></td
            >
            <td class="figures text-right">{figures.fixed(row.bid, 2)}</td>
            <td class="figures text-right">{figures.fixed(row.ask, 2)}</td>
            <td class="text-right"
              ><NumberField
                label="Price of {contractWords(row.contract)}"
                bind:value={() => priceOf(row, fill), (price) => (rows[i]!.price = price)}
                min={0}
                max={1e12}
                class="w-20"
              /></td
            >
            <td class="text-right"
              ><button
                class="btn btn-xs"
                aria-label="Take {contractWords(row.contract)} out"
                onclick={() => rows.splice(i, 1)}>×</button
              ></td
            >
          </tr>
        {/each}
      </tbody>
    </table>
    {#if ticket.isByHand}
      <fieldset class="flex flex-wrap items-center gap-1.5 border border-line px-2 py-1.5">
        <legend class="px-1 text-[11px] text-soft">a trade by hand</legend>
        {#if ticket.positionId === null}
          <input
            class="w-20 rounded-[3px] border border-line bg-panel px-1"
            aria-label="Symbol"
            bind:value={symbol}
            onkeydown={(event) => event.key !== 'Escape' && event.stopPropagation()}
          />
        {/if}
        <select class="choice" aria-label="What is traded" bind:value={typed.kind}>
          <option value="option">option</option><option value="underlying">the underlying</option>
        </select>
        {#if typed.kind === 'option'}
          <input
            class="choice"
            type="date"
            aria-label="Expiry"
            bind:value={typed.expiry}
            onkeydown={(event) => event.key !== 'Escape' && event.stopPropagation()}
          />
          <select class="choice" aria-label="Settlement" bind:value={typed.settlement}>
            {#each SETTLEMENTS as one (one)}<option>{one}</option>{/each}
          </select>
          <NumberField label="Strike" bind:value={typed.strike} min={0} max={1e12} class="w-16" />
          <select class="choice" aria-label="Side" bind:value={typed.side}
            ><option>call</option><option>put</option></select
          >
        {/if}
        <NumberField label="Quantity" bind:value={typed.quantity} min={-1e9} max={1e9} class="w-14" />
        at <NumberField label="Price" bind:value={typed.price} min={0} max={1e12} class="w-16" />
        <button
          class="btn btn-xs"
          disabled={typed.kind === 'option' && (!typed.expiry || !(typed.strike > 0))}
          onclick={add}>add</button
        >
      </fieldset>
    {/if}
    {#if problem}<p class="m-0 text-loss" role="alert">{problem}</p>{/if}
    <div class="flex items-center gap-2">
      <span class="min-w-0 flex-1 text-soft"
        >{total >= 0 ? 'paid' : 'taken in'} <span class="figures">{figures.fixed(Math.abs(total), 4)}</span> a unit, without
        fees</span
      >
      <button class="btn btn-xs" onclick={() => (isOpen = false)}>not now</button>
      <button class="btn btn-primary btn-xs" disabled={!hasAll || isBusy} onclick={() => void book()}>book it</button>
    </div>
  </div>
</Dialog>
