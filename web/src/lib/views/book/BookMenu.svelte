<script lang="ts">
  import { call } from '$lib/api/call';
  import { figures } from '$lib/formats';
  import { NumberField, Popover } from '$lib/ui';
  import type { BookDesk } from './desk.svelte';

  /** Which book is in view, with its cash; others are chosen, made and deleted here. */
  let { desk }: { desk: BookDesk } = $props();

  let name = $state('');
  let currency = $state('ICR');
  let amount = $state(0);
  const stop = (event: KeyboardEvent) => event.key !== 'Escape' && event.stopPropagation();

  async function make(): Promise<void> {
    const made = call('POST /books', { body: { name, currency } });
    if (await desk.change(made)) {
      desk.params.bookId = (await made).id;
      desk.params.positionId = 0;
      name = '';
    }
  }
  async function pay(): Promise<void> {
    const { book, worth } = desk;
    if (!book || !worth || amount === 0) return;
    const body = { time: worth.asof, amount };
    if (await desk.change(call('POST /books/{id}/cash', { path: { id: book.id }, body }))) amount = 0;
  }
  function choose(id: number): void {
    desk.params.bookId = id;
    desk.params.positionId = 0;
  }
  function drop(): void {
    const { book } = desk;
    if (!book) return;
    choose(0);
    void desk.change(call('DELETE /books/{id}', { path: { id: book.id } }));
  }
</script>

{#snippet trigger()}{desk.book?.name ?? 'no book'} <span aria-hidden="true">▾</span>{/snippet}
<Popover label="Book in view: {desk.book?.name ?? 'no book'}" {trigger}>
  <div class="flex w-64 flex-col gap-2">
    <ul class="m-0 flex list-none flex-col p-0" data-testid="books">
      {#each desk.books ?? [] as book (book.id)}
        <li>
          <button
            class="w-full cursor-pointer px-1 py-0.5 text-left hover:bg-band {book.id === desk.book?.id
              ? 'font-semibold'
              : ''}"
            onclick={() => choose(book.id)}
            >{book.name}
            <span class="font-normal text-soft">{figures.counted(book.positions, 'position')}</span></button
          >
        </li>
      {/each}
    </ul>
    {#if desk.worth}
      <dl class="m-0 grid grid-cols-[1fr_auto] border-t border-line pt-1">
        <dt class="text-soft">cash, {desk.worth.currency}</dt>
        <dd class="figures m-0 text-right" data-testid="book-cash">{figures.fixed(desk.worth.cash, 2)}</dd>
        <dt class="text-soft" title="at the shortest rate of its currency; it is worked out, and booked nowhere">
          interest on it
        </dt>
        <dd class="figures m-0 text-right">{figures.signed(desk.worth.interest, 2)}</dd>
        {#if desk.worth.apart.length > 0}
          <dt class="text-loss">apart</dt>
          <dd class="m-0 text-right text-loss" title="no exchange rate is held: what is in them is part of no sum">
            {desk.worth.apart.join(', ')}
          </dd>
        {/if}
      </dl>
      <div class="flex items-center gap-1">
        <span class="flex-1 text-soft">pay in, out is minus</span>
        <NumberField label="Cash to be paid in" bind:value={amount} none={0} min={-1e12} max={1e12} class="w-24" />
        <button class="btn btn-xs" disabled={amount === 0} onclick={() => void pay()}>pay</button>
      </div>
    {/if}
    <div class="flex items-center gap-1 border-t border-line pt-2">
      <input
        class="min-w-0 flex-1 rounded-[3px] border border-line bg-panel px-1"
        aria-label="Name of a new book"
        placeholder="a new book"
        maxlength="120"
        bind:value={name}
        onkeydown={stop}
      />
      <input
        class="w-11 rounded-[3px] border border-line bg-panel px-1 uppercase"
        aria-label="Its currency"
        maxlength="3"
        bind:value={() => currency, (typed) => (currency = typed.toUpperCase())}
        onkeydown={stop}
      />
      <button
        class="btn btn-xs"
        disabled={name.trim() === '' || !/^[A-Z]{3}$/.test(currency)}
        onclick={() => void make()}>make</button
      >
    </div>
    {#if desk.refusal}<p class="m-0 text-loss" role="alert">{desk.refusal}</p>{/if}
    {#if desk.book}
      <button class="btn btn-xs" title="with all that is in it; undoing brings it back" onclick={drop}
        >delete {desk.book.name}</button
      >
    {/if}
  </div>
</Popover>
