<script lang="ts">
  import { Chart } from '$lib/charts';
  import { LAWS_MARGIN, lawsFigure, lawsRange, lawStyle } from './charts/laws';
  import { figures, shortExpiry, zoneWords } from '$lib/formats';
  import Sentence from '$lib/formats/Sentence.svelte';
  import { useTheme, useWorkbench, useParams } from '$lib/state';
  import type { OddsDesk } from './desk.svelte';
  import { humpsOf } from './laws';
  import { zonesSentence } from './words';
  import { LAWS, PARAMS, PRICE_AXES, type LawName, ZONE_PRESETS } from './params';
  import { followPointer, Toggles } from '$lib/ui';

  let { desk }: { desk: OddsDesk } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const theme = useTheme();
  const PRESET_WORDS = {
    typed: 'own levels',
    deviation: '± 1 deviation',
    deviations: '± 1 and 2 deviations',
    percent5: '± 5 %',
    percent10: '± 10 %',
    spread: 'of the structure',
  } as const;

  const slice = $derived(desk.slice);
  const fit = $derived(slice?.fit ?? null);
  const decimals = $derived(bench.market.decimals);
  const price = $derived(desk.now.price);
  /** The vol that sets the range of the picture: that of the expiry, else of the first law that has one. */
  const deviation = $derived.by(() => {
    if (!fit) return NaN;
    const vol = fit.atmVol > 0 ? fit.atmVol : (desk.laws.find((one) => one.law && one.vol > 0)?.vol ?? NaN);
    return vol * Math.sqrt(fit.years);
  });
  const figure = $derived(
    fit && deviation > 0 && desk.laws.some(({ law }) => law)
      ? lawsFigure({
          ...{ laws: desk.laws, forward: fit.forward, price, deviation, tokens: theme.tokens },
          ...{ isUnder: params.isUnder, axis: params.priceAxis },
        })
      : null,
  );
  const range = $derived(fit && deviation > 0 ? lawsRange({ forward: fit.forward, deviation }) : null);

  /** Levels closer than this share a label; zones narrower than this show their odds on pointing. */
  const LABEL = 54;
  const NARROW = 30;

  let width = $state(0);
  const plot = $derived(Math.max(1, width - LAWS_MARGIN.l - LAWS_MARGIN.r));
  const toX = (level: number) => (range ? LAWS_MARGIN.l + (plot * (level - range[0])) / (range[1] - range[0]) : 0);
  const clamp = (level: number) => (range ? Math.min(range[1], Math.max(range[0], level)) : level);

  const strips = $derived(desk.zones);
  /** Where the curve has its humps: of the expiry, whatever the levels. */
  const humps = $derived.by(() => {
    const curve = desk.lawsAt(['curve'], desk.at)[0]?.law;
    return fit && curve && deviation > 0 ? humpsOf(curve, fit.forward, deviation) : [];
  });
  const sentence = $derived.by(() => {
    if (!slice || !fit) return null;
    const known = strips.filter(({ law }) => law);
    const zones = (known[0]?.zones ?? []).map((zone, i) => ({
      words: zoneWords(zone, decimals),
      odds: known.map(({ name, zones: own }) => ({ name, odds: own[i]!.probability })),
    }));
    return zonesSentence(zones, slice, humps, decimals);
  });

  const tick = $derived(
    bench.market.underlying?.tick && bench.market.underlying.tick > 0 ? bench.market.underlying.tick : 0.01,
  );
  let dragged = $state(-1);

  function levelAt(x: number, box: DOMRect): number {
    if (!range) return NaN;
    const share = (x - box.left - LAWS_MARGIN.l) / plot;
    const level = range[0] + Math.min(1, Math.max(0, share)) * (range[1] - range[0]);
    return Number((Math.round(level / tick) * tick).toFixed(8));
  }

  function drag(event: PointerEvent, i: number): void {
    const box = (event.currentTarget as HTMLElement).parentElement!.getBoundingClientRect();
    dragged = i;
    const move = (at: PointerEvent) => {
      const level = levelAt(at.clientX, box);
      const others = desk.levels;
      // A level stays between its neighbours.
      const [low, high] = [others[dragged - 1] ?? -Infinity, others[dragged + 1] ?? Infinity];
      desk.setLevel(dragged, Math.min(high, Math.max(low, level)));
    };
    followPointer(event, move, () => (dragged = -1));
  }

  function nudge(event: KeyboardEvent, i: number): void {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (by === undefined || !range) return;
    event.preventDefault();
    event.stopPropagation();
    const step = Math.max(tick, Math.round((range[1] - range[0]) / 200 / tick) * tick);
    desk.setLevel(i, Number((desk.levels[i]! + by * step).toFixed(8)));
  }

  function typeLevels(input: HTMLInputElement): void {
    const parts = input.value.split(/[\s,;]+/).filter(Boolean);
    const levels = parts.map(Number);
    const isSense = levels.every((level) => level >= 0) && levels.length <= 8;
    input.setCustomValidity(
      isSense ? '' : levels.length > 8 ? 'eight levels at most' : 'prices are wanted, with spaces between them',
    );
    input.reportValidity();
    if (!isSense) return;
    params.preset = 'typed';
    params.levels = [...new Set(levels)].sort((a, b) => a - b);
  }

  /** How many moves of the past are drawn from. */
  const pastWords = $derived.by(() => {
    const sample = bench.samples.of(desk.at);
    if (!sample || !fit) return '';
    const what = bench.context.pastLaw === 'blocks' ? 'paths' : 'moves';
    return `${figures.count(sample.ends.length)} past ${what} of ${figures.counted(fit.sessions, 'session')}, ${figures.count(sample.independent)} of them apart`;
  });

  function toggle(name: LawName): void {
    const { laws } = params;
    const next = LAWS.filter((one) => (one === name ? !laws.includes(one) : laws.includes(one)));
    if (next.length > 0) params.laws = next;
  }
</script>

<section class="panel min-h-0 flex-1" aria-label="Where it may end">
  <header class="flex items-center gap-2 px-3 pt-2 pb-0.5">
    <h2 class="text-[15px] font-bold whitespace-nowrap">Where it may end</h2>
    <span class="min-w-0 flex-1 truncate text-soft" title={pastWords || undefined}
      >{slice ? shortExpiry(slice) : ''}{pastWords && params.laws.includes('past') ? ` · ${pastWords}` : ''}</span
    >
    <Toggles label="Axis of prices" options={PRICE_AXES} bind:value={params.priceAxis} />
    <Toggles
      label="Law"
      options={[false, true]}
      words={(isUnder) => (isUnder ? 'cumulative' : 'density')}
      bind:value={params.isUnder}
    />
  </header>
  <div class="flex flex-wrap items-center gap-1 px-3 pb-1 text-[11px]">
    <div class="flex flex-wrap gap-1" role="group" aria-label="Laws">
      {#each LAWS as name (name)}
        {@const style = lawStyle(name, theme.tokens)}
        {@const found = desk.laws.find((one) => one.name === name)}
        <button
          class="flex cursor-pointer items-center gap-1 rounded-[5px] border px-1.5 py-px {params.laws.includes(name)
            ? 'border-line bg-band text-ink'
            : 'border-transparent text-soft hover:text-ink'}"
          aria-pressed={params.laws.includes(name)}
          title={found && !found.law ? found.missing : name === 'past' ? pastWords : undefined}
          onclick={() => toggle(name)}
        >
          <svg width="14" height="6" aria-hidden="true"
            ><line
              x1="0"
              x2="14"
              y1="3"
              y2="3"
              stroke={style.color}
              stroke-width="2"
              stroke-dasharray={{ solid: 'none', dash: '5 3', dot: '1.5 2.5', dashdot: '5 2 1.5 2' }[style.dash]}
            /></svg
          >{name}{found && !found.law ? ' –' : ''}
        </button>
      {/each}
    </div>
  </div>
  {#if figure && fit && range}
    <div class="relative flex min-h-0 flex-1" bind:clientWidth={width} data-testid="laws">
      <Chart {figure} name="laws" label="Where the price may end on {shortExpiry(fit)}" />
      {#each desk.levels as level, i (i)}
        {@const isOut = level < range[0] || level > range[1]}
        <div
          class="group absolute top-[8px] bottom-[22px] z-10 w-[13px] -translate-x-1/2 cursor-ew-resize touch-none outline-none"
          style="left: {toX(clamp(level))}px"
          role="slider"
          tabindex="0"
          aria-label="Level {i + 1}"
          aria-valuenow={level}
          aria-valuemin={range[0]}
          aria-valuemax={range[1]}
          title={isOut ? 'beyond the picture' : 'drag, or arrow keys'}
          onpointerdown={(event) => drag(event, i)}
          onkeydown={(event) => nudge(event, i)}
        >
          <span
            class="absolute inset-y-0 left-1/2 w-px -translate-x-1/2 border-l border-dashed border-ink group-focus-visible:border-implied"
          ></span>
          <span
            class="absolute -bottom-[5px] left-1/2 size-[11px] -translate-x-1/2 rounded-full border-2 border-ink bg-panel group-focus-visible:border-implied"
          ></span>
        </div>
        {@const isClose = i > 0 && toX(clamp(level)) - toX(clamp(desk.levels[i - 1]!)) < LABEL}
        {#if !isClose}<span
            class="figures pointer-events-none absolute top-[6px] z-10 -translate-x-1/2 rounded bg-panel/85 px-0.5 text-[10.5px]!"
            style="left: {Math.min(width - 22, Math.max(62, toX(clamp(level))))}px"
            >{isOut ? (level < range[0] ? '◂ ' : '▸ ') : ''}{figures.fixed(level, decimals)}</span
          >{/if}
      {/each}
    </div>
    <div class="flex flex-none flex-col gap-px px-0 pt-1" data-testid="strips">
      {#each strips as strip (strip.name)}
        <div class="relative h-[17px]" role="group" aria-label="Odds by {strip.name}">
          <span
            class="absolute left-1 text-[10.5px] leading-[17px]"
            style="color: color-mix(in srgb, {lawStyle(strip.name, theme.tokens).color} 45%, var(--ink))"
            >{strip.name}</span
          >
          {#if strip.law}
            {#each strip.zones as zone, i (i)}
              {@const from = toX(clamp(zone.from ?? range[0]))}
              {@const to = toX(clamp(zone.to ?? range[1]))}
              <button
                class="figures absolute h-[17px] cursor-pointer overflow-hidden border-l border-panel text-center text-[10.5px]! leading-[17px] {strip.name ===
                bench.context.basis
                  ? 'font-semibold'
                  : ''} {i % 2 === 0 ? 'bg-band' : 'bg-page'} hover:underline"
                style="left: {Math.max(from, i === 0 ? 56 : 0)}px; width: {Math.max(
                  0,
                  to - Math.max(from, i === 0 ? 56 : 0),
                )}px"
                title="{zoneWords(zone, decimals)}: {figures.percent(zone.probability, 2)} by {strip.name}; the working"
                onclick={() => (bench.dialogs.work = desk.zoneWork(strip.name, i))}
                >{to - from >= NARROW ? figures.fixed(100 * zone.probability, 1) : ''}</button
              >
            {/each}
          {:else}
            <span class="absolute left-[58px] truncate text-[10.5px] leading-[17px] text-soft">{strip.missing}</span>
          {/if}
        </div>
      {/each}
    </div>
    <div class="flex items-center gap-2 px-3 pt-1 text-[11px]">
      <select class="choice" aria-label="Zones" bind:value={params.preset}>
        {#each ZONE_PRESETS as preset (preset)}<option value={preset}>{PRESET_WORDS[preset]}</option>{/each}
      </select>
      <input
        class="figures min-w-0 flex-1 rounded-[3px] border border-line bg-panel px-1.5 py-px text-[11px]!"
        aria-label="Levels of the zones"
        placeholder="levels, with spaces between them"
        value={desk.levels.map((level) => Number(level.toFixed(Math.max(2, decimals)))).join(' ')}
        onkeydown={(event) => event.stopPropagation()}
        onchange={(event) => typeLevels(event.currentTarget)}
      />
      <button
        class="btn btn-xs"
        title="one more level, at the forward"
        disabled={desk.levels.length >= 8}
        onclick={() => {
          const level = Number((Math.round(fit.forward / tick) * tick).toFixed(8));
          params.levels = [...new Set([...desk.levels, level])].sort((a, b) => a - b);
          params.preset = 'typed';
        }}>+ level</button
      >
    </div>
    {#if sentence}<div class="flex-none p-2 pt-1"><Sentence {sentence} /></div>{/if}
  {:else if slice}
    <p class="m-auto px-6 text-center text-soft">
      {desk.laws[0]?.missing
        ? `No law to draw: ${desk.laws[0].missing}.`
        : 'The expiry has no vol at the forward: nothing can be drawn.'}
    </p>
  {:else}
    <p class="m-auto text-soft">{bench.problem ?? 'Loading …'}</p>
  {/if}
</section>
