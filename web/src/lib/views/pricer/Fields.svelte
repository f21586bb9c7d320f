<script lang="ts">
  import RotateCcw from '@lucide/svelte/icons/rotate-ccw';
  import { forwardOf, MODEL_IDS, type Contract } from '@umwelt/core';
  import { figures } from '$lib/formats';
  import { useWorkbench, useParams } from '$lib/state';
  import type { PricerDesk } from './desk.svelte';
  import { knownDividends } from '$lib/data/events';
  import { fieldsOf, writeDividends, type FieldName } from './terms';
  import { FIELD_LABELS, MODEL_NAMES } from './words';
  import { PARAMS } from './params';
  import { Toggles } from '$lib/ui';

  let { desk }: { desk: PricerDesk } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const decimals = $derived(Math.max(2, desk.decimals));
  const deviationOf = (contract: Contract) =>
    contract.vol * Math.sqrt(contract.years) * (contract.model === 'bachelier' ? 1 : forwardOf(contract));
  const names = $derived(desk.terms ? fieldsOf(desk.terms.model) : []);
  const hasChanges = $derived(params.changes !== '' || Object.keys(desk.problems).length > 0);

  const isMoment = (name: FieldName) => name === 'valued' || name === 'expires';
  const options = (name: FieldName): readonly string[] | null =>
    name === 'model' ? MODEL_IDS : name === 'exercise' ? ['american', 'european'] : null;
  const optionName = (name: FieldName, option: string) =>
    name === 'model' ? MODEL_NAMES[option as (typeof MODEL_IDS)[number]] : option;

  const known = $derived(
    bench.market.current && desk.terms
      ? knownDividends(bench.market.current.events, desk.terms, bench.market.calendar)
      : [],
  );

  /** Puts the known dividends in the place of the yield that the forward implies. */
  function takeCash(): void {
    desk.type('yield', '0');
    desk.type('dividends', writeDividends(known));
  }

  /** The arrows move a number by a step, with shift by ten. */
  function nudge(event: KeyboardEvent, name: FieldName): void {
    const { step } = FIELD_LABELS[name];
    const direction = event.key === 'ArrowUp' ? 1 : event.key === 'ArrowDown' ? -1 : 0;
    const now = Number(desk.text(name));
    if (!step || direction === 0 || !Number.isFinite(now)) return;
    event.preventDefault();
    desk.type(name, String(Number((now + direction * step * (event.shiftKey ? 10 : 1)).toPrecision(10))));
  }
</script>

<section class="panel min-w-[230px] flex-[244]" aria-label="Contract">
  <header class="flex items-center gap-2 px-3 py-2">
    <h2 class="text-[15px] font-bold">Contract</h2>
    <span class="flex-1"></span>
    <button
      class="cursor-pointer rounded-[5px] border border-line px-1.5 py-0.5 text-[11px] disabled:cursor-default disabled:text-faint"
      disabled={!hasChanges}
      title="take everything from the contract in focus again"
      onclick={() => desk.load()}>load focus</button
    >
  </header>
  <form class="min-h-0 flex-1 overflow-y-auto px-3 pb-2" onsubmit={(event) => event.preventDefault()}>
    <div class="mb-1 grid grid-cols-[66px_1fr] items-center gap-1">
      <span class="text-[12px] text-soft">Side</span>
      <Toggles
        label="Side"
        options={['call', 'put'] as const}
        words={(side) => (side === 'call' ? '△ call' : '▽ put')}
        value={desk.side}
        onchoose={(side) => desk.side !== side && bench.focus.flip()}
      />
    </div>
    {#each names as name (name)}
      {@const { label, unit, title } = FIELD_LABELS[name]}
      {@const problem = desk.problems[name]}
      {@const was = desk.was(name)}
      {@const choices = options(name)}
      {@const shownLabel = name === 'yield' && desk.terms?.model === 'garman-kohlhagen' ? 'Foreign rate' : label}
      <div class="mb-1">
        <div class="grid grid-cols-[66px_1fr_14px] items-center gap-1">
          <label class="text-[12px] text-soft" for="field-{name}" {title}>{shownLabel}</label>
          <div
            class="flex min-w-0 items-center rounded-[5px] border bg-page {problem
              ? 'border-loss'
              : 'border-line'} {choices && was === null ? 'col-span-2' : ''}"
          >
            {#if choices}
              <select
                id="field-{name}"
                class="w-full min-w-0 cursor-pointer bg-page py-0.5 text-[11px] text-ink"
                value={desk.text(name)}
                onchange={(event) => desk.type(name, event.currentTarget.value)}
              >
                {#each choices as option (option)}<option value={option}>{optionName(name, option)}</option>{/each}
              </select>
            {:else}
              <input
                id="field-{name}"
                class="figures w-full min-w-0 bg-transparent px-1.5 py-0.5 text-right {isMoment(name)
                  ? 'text-[11px]! tracking-tight'
                  : ''}"
                type="text"
                autocomplete="off"
                spellcheck="false"
                value={desk.text(name)}
                aria-invalid={problem !== undefined}
                aria-describedby={problem ? `problem-${name}` : undefined}
                oninput={(event) => desk.type(name, event.currentTarget.value)}
                onkeydown={(event) => nudge(event, name)}
              />
              {#if unit}<span class="pr-1.5 text-[11px] text-soft">{unit}</span>{/if}
            {/if}
          </div>
          {#if was !== null || problem}
            <button
              type="button"
              class="cursor-pointer text-soft hover:text-ink"
              title="put back {was ?? ''}"
              aria-label="Put back {shownLabel}"
              onclick={() => desk.reset(name)}><RotateCcw size={12} /></button
            >
          {/if}
        </div>
        {#if name === 'dividends' && !problem && known.length > 0 && desk.terms?.dividends.length === 0}
          <button
            type="button"
            class="ml-[70px] cursor-pointer rounded-[5px] border border-line px-1.5 py-0.5 text-[11px]"
            title="{writeDividends(known)} in the place of the yield"
            onclick={takeCash}>{figures.counted(known.length, 'known dividend')} as cash</button
          >
        {/if}
        {#if problem}
          <p class="m-0 pl-[70px] text-[11px] text-loss" id="problem-{name}">{problem}</p>
        {:else if was !== null && !choices && name !== 'dividends'}
          <p class="m-0 pl-[70px] text-[11px] text-soft">
            was <span class="figures text-[11px]!">{was}</span>
          </p>
        {/if}
      </div>
    {/each}
  </form>
  {#if desk.contract}
    {@const { years, rate } = desk.contract}
    <dl class="mx-3 my-1 grid grid-cols-[1fr_auto] border-t border-line pt-1 text-[12px]">
      <dt class="text-soft">Forward</dt>
      <dd class="figures m-0 text-right" data-testid="forward">{figures.fixed(forwardOf(desk.contract), decimals)}</dd>
      <dt class="text-soft">Discount</dt>
      <dd class="figures m-0 text-right">{figures.fixed(Math.exp(-rate * years), 6)}</dd>
      <dt class="text-soft">Years</dt>
      <dd class="figures m-0 text-right">{figures.fixed(years, 6)}</dd>
      <dt class="text-soft">One deviation</dt>
      <dd class="figures m-0 text-right">
        {figures.plusMinus(deviationOf(desk.contract), decimals)}
      </dd>
    </dl>
  {/if}
  <p class="m-0 px-3 pb-2 text-[11px] text-soft">↑ ↓ in a field move it by a step, with shift by ten.</p>
</section>
