<script lang="ts">
  import { call } from '$lib/api/call';
  import { SHIPPED_SCREENS } from '$lib/columns';
  import { Loaded, useParams, useWorkbench } from '$lib/state';
  import { ChoiceMenu, Toggles } from '$lib/ui';
  import { PARAMS, PLACES, type Place } from './params';
  import type { FinderDesk } from './desk.svelte';

  /** Where to look. */
  let { desk }: { desk: FinderDesk } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const TITLES: Record<Place, string> = {
    focus: 'the underlying in view: every change answers at once',
    chosen: 'some underlyings',
    screen: 'what a screen of the Universe leaves',
    all: 'every underlying that is held',
  };
  const kept = new Loaded(() => {
    if (params.place !== 'screen') return null;
    return call('GET /screens').then(({ screens }) => screens.map(({ name }) => name));
  });
  const names = $derived([...(kept.value ?? []), ...SHIPPED_SCREENS.map(({ name }) => name)]);
  const all = $derived(bench.market.universe ?? []);

  function choosePlace(place: Place): void {
    if (place === 'screen' && params.screen === '') params.screen = SHIPPED_SCREENS[0]!.name;
    if (place === 'chosen' && params.symbols.length === 0 && bench.context.symbol)
      params.symbols = [bench.context.symbol];
    params.place = place;
  }
  const choose = (symbol: string, isChosen: boolean) =>
    (params.symbols = isChosen ? [...params.symbols, symbol] : params.symbols.filter((one) => one !== symbol));
</script>

<div class="flex flex-wrap items-center gap-1.5 text-[12px]">
  <Toggles
    label="Where to look"
    options={PLACES}
    value={params.place}
    titles={(place) => TITLES[place]}
    onchoose={choosePlace}
  />
  {#if params.place === 'screen'}
    <select class="choice max-w-32" aria-label="Screen" bind:value={params.screen}>
      {#each names as name (name)}<option>{name}</option>{/each}
    </select>
    <span class="text-soft">{desk.places === undefined ? '' : `${desk.places?.length ?? 0} of ${all.length}`}</span>
  {:else if params.place === 'chosen'}
    <ChoiceMenu
      label="underlyings"
      options={all.map(({ symbol, name }) => ({ value: symbol, word: symbol, title: name }))}
      chosen={params.symbols}
      onchange={choose}
    />
  {:else if params.place === 'focus'}<b>{bench.context.symbol ?? ''}</b>
  {:else}<span class="text-soft">{all.length}</span>{/if}
</div>
