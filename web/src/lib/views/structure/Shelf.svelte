<script lang="ts">
  import {
    PLACINGS,
    placeOnShelf,
    SHELF,
    sketchOf,
    USUAL_PLACINGS,
    type Placing,
    type ShelfPlaced,
  } from '@umwelt/core';
  import { figures, shortExpiry } from '$lib/formats';
  import { useWorkbench } from '$lib/state';
  import { legWords } from '$lib/structure';
  import { Dialog, Toggles } from '$lib/ui';

  /** Structures of the trade as pictures, placed on the expiry in focus as it is chosen here. */
  const bench = useWorkbench();
  const snapshot = $derived(bench.snapshot.snapshot);
  const multiplier = $derived(bench.market.underlying?.multiplier ?? 1);
  const isIndex = $derived(bench.market.underlying?.kind === 'index');
  const USUAL_DAYS = 30;
  const UNITS = {
    delta: 'delta, per cent',
    odds: 'odds to end beyond, per cent',
    deviations: 'deviations of the expiry',
    width: 'per cent of the forward',
    strikes: 'listed strikes',
  } as const;

  let isOpen = $state(false);
  let placing = $state.raw<Placing>(USUAL_PLACINGS.delta);

  /** The expiry in focus, or the one nearest to a month. */
  const chosen = $derived.by(() => {
    const named = bench.focus.current?.slice;
    if (named !== undefined || !snapshot) return named ?? -1;
    const away = (i: number) => Math.abs(snapshot.slices[i]!.fit.days - USUAL_DAYS);
    return snapshot.slices.reduce((best, _, i) => (best < 0 || away(i) < away(best) ? i : best), -1);
  });
  const slice = $derived(snapshot?.slices[chosen]);
  const shelf = $derived.by(() => {
    if (!isOpen || !snapshot || chosen < 0) return [];
    return SHELF.map((name) => {
      const placed = placeOnShelf(snapshot, name, chosen, placing);
      const isOff = placed === null || (placed.held !== 0 && isIndex);
      return { name, placed, isOff, sketch: placed ? sketchOf(placed, snapshot.slices) : [] };
    });
  });

  const [WIDTH, HEIGHT] = [84, 34];
  /** What is less is drawn as nothing: a share of so far a move. */
  const LEAST = 0.02;
  /** A sketch as the path of its line, and where nothing is gained. */
  function pathOf(sketch: readonly number[]): { line: string; zero: number } {
    const most = Math.max(...sketch.map(Math.abs), LEAST);
    const y = (value: number) => HEIGHT / 2 - (value / most) * (HEIGHT / 2 - 2);
    const at = (value: number, i: number) => `${((i * WIDTH) / (sketch.length - 1)).toFixed(1)} ${y(value).toFixed(1)}`;
    return { line: `M${sketch.map(at).join('L')}`, zero: y(0) };
  }

  function wordsOf({ legs, held }: ShelfPlaced): string {
    const words = legs.map((leg) => legWords(leg));
    return [
      ...words,
      ...(held === 0 ? [] : [`${figures.signed(held * multiplier, 0)} ${bench.context.symbol} itself`]),
    ].join(', ');
  }

  function take({ legs, held }: ShelfPlaced): void {
    bench.context.legs = legs;
    bench.context.held = held * multiplier;
    isOpen = false;
  }

  function type(what: 'near' | 'far', value: number): void {
    if (value > 0) placing = { ...placing, [what]: value };
  }
</script>

<button
  class="btn btn-xs"
  title="structures of the trade, placed on the expiry in focus"
  disabled={!snapshot || chosen < 0}
  onclick={() => (isOpen = true)}>shelf …</button
>
<Dialog title="Structures of the trade" bind:isOpen>
  <div class="mb-2 flex flex-wrap items-center gap-x-3 gap-y-1 text-[12.5px]">
    <span class="text-soft">on {slice ? shortExpiry(slice) : '–'}, placed by</span>
    <Toggles
      label="Placed by"
      options={PLACINGS}
      value={placing.by}
      titles={(by) => UNITS[by]}
      onchoose={(by) => (placing = USUAL_PLACINGS[by])}
    />
    {#each ['near', 'far'] as const as what (what)}
      <label
        class="flex items-center gap-1"
        title="{UNITS[placing.by]}: legs {what === 'near' ? 'near to' : 'far from'} the money"
        >{what}
        <input
          class="figures w-14 rounded-[3px] border border-line bg-panel px-1 text-right text-[12px]!"
          type="number"
          min="0"
          step="any"
          aria-label="How far is {what}"
          value={placing[what]}
          onkeydown={(event) => event.stopPropagation()}
          onchange={(event) => type(what, event.currentTarget.valueAsNumber)}
        /></label
      >
    {/each}
  </div>
  <div class="grid grid-cols-5 gap-1.5" role="group" aria-label="Shelf">
    {#each shelf as { name, placed, isOff, sketch } (name)}
      {@const { line, zero } = pathOf(sketch)}
      <button
        class="flex cursor-pointer flex-col items-center rounded-[6px] border border-line px-1 pt-1.5 pb-1 text-[11.5px] leading-tight hover:border-ink disabled:cursor-default disabled:opacity-40"
        title={placed
          ? isOff
            ? 'an index cannot be held: its fund and futures can'
            : wordsOf(placed)
          : 'no strikes, no curve or no later expiry for it'}
        disabled={isOff}
        onclick={() => placed && take(placed)}
      >
        <svg width={WIDTH} height={HEIGHT} aria-hidden="true"
          ><line x1="0" x2={WIDTH} y1={zero} y2={zero} stroke="var(--line)" /><path
            d={sketch.length > 0 ? line : ''}
            fill="none"
            stroke="var(--ink)"
            stroke-width="1.6"
          /></svg
        >{name}
      </button>
    {/each}
  </div>
</Dialog>
