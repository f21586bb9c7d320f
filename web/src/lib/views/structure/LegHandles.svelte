<script lang="ts">
  import { figures } from '$lib/formats';
  import { legWords } from '$lib/structure';
  import { followPointer } from '$lib/ui';
  import { axisOf } from './axis';
  import type { Evaluated, StructureDesk } from './desk.svelte';

  /** Legs as handles on the axis of prices: each is dragged to another strike, and the bar under them takes all of them along. */
  let { desk, answer, width }: { desk: StructureDesk; answer: Evaluated; width: number } = $props();

  const axis = $derived(axisOf(answer.x, width));
  const { toX } = $derived(axis);
  /** By the price in view. */
  const strikes = $derived(desk.hand.legs.map((leg) => leg.strike / desk.hand.ratioOf(leg)));
  const [first, last] = $derived([toX(Math.min(...strikes)), toX(Math.max(...strikes))] as const);
  /** Legs on a strike stand over each other. */
  const floorOf = (at: number) => strikes.slice(0, at).filter((strike) => strike === strikes[at]).length;

  const LEAST = 14;

  function drag(event: PointerEvent, at: number): void {
    const began = event.clientX;
    const from = strikes[at]!;
    const { to, end } = desk.hand.drag(at);
    const { perPixel } = axis;
    followPointer(event, (now) => to(from + (now.clientX - began) * perPixel, now.altKey), end);
  }

  function dragAll(event: PointerEvent): void {
    const began = event.clientX;
    const { by, end } = desk.hand.dragAll();
    const { perPixel } = axis;
    followPointer(event, (now) => by((now.clientX - began) * perPixel), end);
  }

  function nudge(event: KeyboardEvent, at: number): void {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    desk.hand.nudge(at, by, event.altKey);
  }

  function nudgeAll(event: KeyboardEvent): void {
    const [strike, expiry] = {
      ArrowLeft: [-1, 0],
      ArrowRight: [1, 0],
      ArrowUp: [0, 1],
      ArrowDown: [0, -1],
    }[event.key] ?? [0, 0];
    if (strike === 0 && expiry === 0) return;
    event.preventDefault();
    event.stopPropagation();
    desk.hand.take(strike !== 0 ? desk.hand.alongStrikes(strike!) : desk.hand.rolled(expiry as 1 | -1));
  }
</script>

{#each desk.hand.legs as leg, at (at)}
  {@const isBought = leg.quantity > 0}
  <div
    class="absolute z-10 flex h-[15px] w-[26px] -translate-x-1/2 cursor-ew-resize touch-none items-center justify-center rounded-[4px] border text-[10px] leading-none outline-none focus-visible:ring-2 focus-visible:ring-implied {isBought
      ? 'border-gain bg-gain text-panel'
      : 'border-loss bg-panel text-loss'}"
    style="left: {toX(strikes[at]!)}px; bottom: {27 + 17 * floorOf(at)}px"
    role="slider"
    tabindex="0"
    aria-label="Strike of {legWords(leg)}"
    aria-valuenow={leg.strike}
    aria-valuetext={figures.strike(leg.strike)}
    title="{legWords(leg)}: drag to another strike, or arrow keys; its opposite goes along, with alt it goes alone"
    onpointerdown={(event) => drag(event, at)}
    onkeydown={(event) => nudge(event, at)}
  >
    {figures.signed(leg.quantity, 0)}{leg.side.charAt(0)}
  </div>
{/each}
<div
  class="absolute bottom-[20px] z-10 flex h-[7px] -translate-x-1/2 cursor-grab touch-none items-center outline-none focus-visible:ring-2 focus-visible:ring-implied"
  style="left: {0.5 * (first + last)}px; width: {Math.max(LEAST, last - first)}px"
  role="slider"
  tabindex="0"
  aria-label="All legs"
  aria-valuenow={Math.min(...strikes)}
  title="drag to move all legs; arrow keys: along strikes, up and down to the next expiry and back"
  onpointerdown={dragAll}
  onkeydown={nudgeAll}
>
  <span class="h-[3px] w-full rounded-full bg-ink/60"></span>
</div>
