<script lang="ts">
  import { offerTable } from '$lib/exports/shown';
  import { PER, type PricerDesk } from './desk.svelte';
  import { lineValue, READING, readingTable } from './reading';
  import { borrowedWords } from '$lib/formats';
  import { MODEL_NAMES, pricerWords } from './words';
  import { Toggles } from '$lib/ui';

  let { desk }: { desk: PricerDesk } = $props();

  const priced = $derived(desk.priced);
  const lines = $derived(
    READING.filter(({ name }) => name !== 'earlyPremium' || Number.isFinite(priced?.call.earlyPremium)),
  );
  const perWords = { unit: 'unit', contract: 'contract', position: '× quantity' };

  offerTable(
    'reading',
    () => 'Call and put, all Greeks',
    () => (priced ? readingTable(priced, desk.factor, desk.decimals) : null),
  );
</script>

<section class="panel min-w-0 flex-[326]" aria-label="Call and put">
  <header class="flex items-center gap-2 px-3 py-2">
    <h2 class="text-[15px] font-bold">Call and put</h2>
    <span class="flex-1"></span>
    <Toggles label="Counted" options={PER} words={(per) => perWords[per]} bind:value={desk.per} />
  </header>
  {#if priced}
    <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
    <div class="min-h-0 flex-1 overflow-y-auto px-3" tabindex="0" role="region" aria-label="All Greeks">
      <table
        class="dense w-full border-collapse {desk.isOld ? 'text-soft' : ''}"
        data-testid="reading"
        data-old={desk.isOld}
      >
        <thead>
          <tr>
            {#if desk.isOld}<th class="head-cell text-left!">◆ of the last good input</th>{:else}<td></td>{/if}
            {#each ['call', 'put'] as const as side (side)}
              <th class="head-cell {desk.side === side ? 'font-bold! text-ink!' : ''}"
                >{side === 'call' ? '△ call' : '▽ put'}</th
              >
            {/each}
          </tr>
        </thead>
        <tbody>
          {#each lines as line, i (`${line.group} ${line.label}`)}
            {@const isFirst = i > 0 && lines[i - 1]!.group !== line.group}
            <tr class={isFirst ? 'border-t border-line' : ''}>
              <th class="py-[1.5px] text-left text-[12px] font-normal whitespace-nowrap" title={line.title}>
                {line.label}
              </th>
              {#each ['call', 'put'] as const as side (side)}
                <td class="cell py-[1.5px] {line.name === 'price' ? 'font-bold' : ''}"
                  >{line.write(lineValue(line, priced[side], desk.factor), desk.decimals)}</td
                >
              {/each}
            </tr>
          {/each}
        </tbody>
      </table>
    </div>
    <p class="sentence m-2">{pricerWords(priced.terms, desk.side, priced[desk.side])}</p>
    {#if desk.borrowed}<p class="m-0 px-3 pb-1 text-[11px] text-implied">⋯ {borrowedWords(desk.borrowed)}.</p>{/if}
    <p class="m-0 px-3 pb-2 text-[11px] text-soft">
      {MODEL_NAMES[priced.call.pricedBy]}{priced.call.pricedBy === priced.terms.model
        ? ''
        : ', for the cash dividends or two boundaries'}. Odds are under flat vol: those of the chain's curve count its
      slope.
    </p>
  {:else}
    <p class="m-auto px-6 text-center text-soft">{desk.problem ?? 'Pricing …'}</p>
  {/if}
</section>
