<script lang="ts">
  import { goto } from '$app/navigation';
  import { figures } from '$lib/formats';
  import { keepInHand } from '$lib/kept';
  import { snapshotAt, ticketOfLegs, type Ticket } from '$lib/book';
  import { problemOf, useParams, useWorkbench } from '$lib/state';
  import type { FinderDesk } from './desk.svelte';
  import EdgesPart from './EdgesPart.svelte';
  import { titleOf, TOLD } from './measures';
  import { PARAMS } from './params';
  import RowProfile from './RowProfile.svelte';
  import { inHand, nameOf, strikesOf, structureAddress } from './rows';
  import { weakestSentence } from './weakest';

  /** The row in focus: what it is, how likely, where its edges come from, why it stands where it does. */
  let { desk }: { desk: FinderDesk } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const row = $derived(desk.row);
  let problem = $state<string | null>(null);
  let said = $state('');
  $effect(() => {
    void row;
    said = '';
  });

  const signed = (value: number) => figures.signed(value, 0);

  function open(): void {
    if (!row) return;
    desk.takeInHand(row);
    // Structure enters it as it stands here.
    void goto(structureAddress(bench.address.query, params.slip, params.contractFee));
  }

  async function attempt(work: () => Promise<void>): Promise<void> {
    try {
      await work();
      problem = null;
    } catch (error) {
      problem = problemOf(error);
    }
  }

  const keep = () =>
    attempt(async () => {
      if (!row) return;
      const { asof } = bench.context;
      await keepInHand({ context: { symbol: row.symbol, asof, ...inHand(row) } });
      // Said here: a notice would lie over the buttons.
      said = `${row.symbol} ${nameOf(row)} is kept.`;
    });

  /** A ticket at the chosen fill: each leg so much of its half spread over the middle. */
  const book = () =>
    attempt(async () => {
      if (!row) return;
      const { legs, held } = inHand(row);
      const { universe } = bench.market;
      const underlying = universe?.find(({ symbol }) => symbol === row.symbol);
      const asof = bench.snapshot.snapshot?.asof ?? bench.context.asof ?? new Date().toISOString();
      const snapshot = await snapshotAt(row.symbol, asof);
      if (!snapshot || !underlying) throw new Error(`No chain of ${row.symbol} is held at this moment.`);
      const unit = underlying.kind === 'future' ? underlying.multiplier : 1;
      const ticket = ticketOfLegs(snapshot, legs, held, unit);
      const share = params.slip / 100;
      const filled: Ticket = {
        ...ticket,
        rows: ticket.rows.map((one) => {
          const half = 0.5 * (one.ask - one.bid) * Math.sign(one.quantity);
          const price = 0.5 * (one.bid + one.ask) + share * half;
          return Number.isFinite(price) ? { ...one, price: Number(price.toFixed(6)) } : one;
        }),
      };
      bench.dialogs.ticket = filled;
    });
</script>

<section class="panel min-h-0 flex-1 contain-strict" aria-label="Row in focus">
  {#if !row}
    <p class="m-auto p-6 text-center text-soft">What is chosen among the candidates is explained here.</p>
  {:else}
    {@const { measures } = row}
    <header class="flex flex-none items-baseline gap-2 px-3 pt-2">
      <h2 class="min-w-0 flex-1 truncate text-[15px] font-bold" title="{row.symbol} {nameOf(row)}">
        {row.symbol}
        {nameOf(row)}
      </h2>
      <b class="figures text-[14px]!">{figures.fixed(row.score, 1)}</b>
    </header>
    <p class="figures m-0 flex-none px-3 text-[11.5px]! text-soft">
      {strikesOf(row)} · {figures.fixed(measures.days, 0)} d · ×{figures.count(row.multiplier)}
    </p>
    <div class="min-h-0 flex-1 overflow-y-auto px-3 pb-2" data-testid="finder-row">
      <RowProfile {row} evaluated={desk.evaluated.value} />
      {#if desk.evaluated.problem}<p class="m-0 text-[12px] text-loss" role="alert">{desk.evaluated.problem}</p>{/if}
      <EdgesPart {row} />
      <h3 class="m-0 mt-2 text-[12.5px] font-bold">
        Why it ranks here <span class="font-normal text-soft">weight × rank</span>
      </h3>
      <table class="w-full border-collapse text-[12px]" aria-label="Why it ranks here">
        <tbody>
          {#each params.weights as { measure, weight }, i (measure)}
            {@const share = row.shares[i] ?? NaN}
            {@const total = params.weights.reduce((sum, one) => sum + Math.abs(one.weight), 0)}
            {@const most = (100 * Math.abs(weight)) / total}
            <tr title={titleOf(measure)}>
              <th class="max-w-[8.5em] truncate py-px pr-2 text-left font-normal"
                >{TOLD[measure].label}{weight < 0 ? ', low' : ''}</th
              >
              <td class="w-[34%] align-middle">
                <span class="relative block h-[9px] border border-line" style="width: {most}%">
                  <span class="absolute inset-y-0 left-0 bg-implied" style="width: {(100 * share) / most}%"></span>
                </span>
              </td>
              <td class="figures pl-1 text-right">{figures.fixed(share, 1)}</td>
              <td class="figures pl-1 text-right text-soft">of {figures.fixed(most, 0)}</td>
            </tr>
          {/each}
          <tr class="border-t border-line">
            <th class="text-left">score</th>
            <td></td>
            <td class="figures text-right font-bold">{figures.fixed(row.score, 1)}</td>
            <td></td>
          </tr>
        </tbody>
      </table>
      {#if Number.isFinite(row.became)}
        <p class="m-0 mt-2 text-[12px]">
          <b>What became of it:</b> it ended at {figures.fixed(row.settled, 2)} and
          <b class={row.became < 0 ? 'text-loss' : 'text-gain'}
            >{row.became < 0 ? 'lost' : 'gained'}
            {figures.fixed(Math.abs(row.became) * row.multiplier, 0)}</b
          > a contract.
        </p>
      {/if}
    </div>
    <p class="sentence m-0 mx-3 mb-1.5 flex-none"><b>Weakest point:</b> {weakestSentence(row)}</p>
    {#if problem}<p class="m-0 flex-none px-3 pb-1 text-[12px] text-loss" role="alert">{problem}</p>{/if}
    <p class="m-0 flex-none px-3 pb-1 text-[12px] text-soft empty:hidden" role="status">{said}</p>
    <div class="flex flex-none flex-wrap gap-1.5 px-3 pb-2">
      <button class="btn btn-neutral btn-xs" onclick={open}>open in Structure</button>
      <button class="btn btn-xs" onclick={() => void keep()}>keep</button>
      <button
        class="btn btn-xs"
        title="as a position, at mid less {signed(params.slip)} per cent of the half spread"
        onclick={() => void book()}>into the book</button
      >
    </div>
  {/if}
</section>
