<script lang="ts">
  import { figures } from '$lib/formats';
  import { useParams, useWorkbench } from '$lib/state';
  import { followPointer } from '$lib/ui';
  import { axisOf } from './axis';
  import type { Evaluated } from './desk.svelte';
  import { PARAMS } from './params';

  /** The ends of the axis of prices: each is dragged, or moved by arrow keys; a double click gives it back. */
  let { answer, width }: { answer: Evaluated; width: number } = $props();

  const bench = useWorkbench();
  const params = useParams(PARAMS);
  const axis = $derived(axisOf(answer.x, width));
  const range = $derived([axis.from, axis.to] as const);

  const ENDS = ['axisFrom', 'axisTo'] as const;
  const NAMES = { axisFrom: 'Lower end of the axis', axisTo: 'Upper end of the axis' };
  /** The least of the axis that is left, and what a key moves, as shares of it. */
  const LEAST = 0.1;
  const STEP = 0.05;

  /** Sets an end, as far as something is left of the axis. */
  function set(end: (typeof ENDS)[number], price: number): void {
    const { decimals } = bench.market;
    const room = LEAST * (range[1] - range[0]);
    const at = end === 'axisFrom' ? Math.min(price, range[1] - room) : Math.max(price, range[0] + room);
    if (at > 0) params[end] = Number(at.toFixed(decimals));
  }

  function drag(event: PointerEvent, end: (typeof ENDS)[number]): void {
    const [from, to] = range;
    const began = event.clientX;
    const { perPixel } = axis;
    const first = end === 'axisFrom' ? from : to;
    // What stands at the end goes with the pointer: drawn inwards, the axis shows more.
    followPointer(
      event,
      (now) => set(end, first - (now.clientX - began) * perPixel),
      () => undefined,
    );
  }

  function nudge(event: KeyboardEvent, end: (typeof ENDS)[number]): void {
    const by = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
    if (by === undefined) return;
    event.preventDefault();
    event.stopPropagation();
    set(end, (end === 'axisFrom' ? range[0] : range[1]) + by * STEP * (range[1] - range[0]));
  }
</script>

{#each ENDS as end, i (end)}
  <div
    class="absolute bottom-[3px] z-10 h-[15px] w-[26px] -translate-x-1/2 cursor-ew-resize touch-none rounded-[3px] outline-none hover:bg-ink/15 focus-visible:ring-2 focus-visible:ring-implied"
    style="left: {i === 0 ? axis.left : axis.right}px"
    role="slider"
    tabindex="0"
    aria-label={NAMES[end]}
    aria-valuenow={range[i]}
    aria-valuetext={figures.fixed(range[i], bench.market.decimals)}
    title="drag the end of the axis, or arrow keys; a double click gives it back"
    onpointerdown={(event) => drag(event, end)}
    onkeydown={(event) => nudge(event, end)}
    ondblclick={() => (params[end] = 0)}
  ></div>
{/each}
