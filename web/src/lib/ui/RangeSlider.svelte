<script lang="ts">
  import { Slider } from 'bits-ui';

  /**
   * A range between two ends, each of which is dragged or moved by arrows, under the counts of what there is.
   *
   * @prop from, to the least and the most; at the outer ends they let everything through
   * @prop counts what there is, in even steps from `min` to `max`
   * @prop words what an end says to those who do not see it
   */
  let {
    label,
    from,
    to,
    min,
    max,
    step,
    counts = [],
    words = String,
    onchange,
  }: {
    label: string;
    from: number;
    to: number;
    min: number;
    max: number;
    step: number;
    counts?: readonly number[];
    words?: (value: number) => string;
    onchange: (value: [number, number]) => void;
  } = $props();

  const HEIGHT = 16;
  /** Bars as one path; what is within is the same again, cut to it, so that nothing is drawn anew while an end is dragged. */
  const bars = $derived.by(() => {
    const highest = Math.max(1, ...counts);
    return counts
      .map((count, bin) => {
        const height = count === 0 ? 0 : Math.max(1, Math.sqrt(count / highest) * HEIGHT);
        return `M${bin + 0.08} ${HEIGHT}v${-height.toFixed(1)}h0.84V${HEIGHT}z`;
      })
      .join('');
  });
  const share = (at: number) => (100 * Math.min(Math.max(at - min, 0), max - min)) / (max - min || 1);
  const low = $derived(from);
  const high = $derived(to);
  /** The same as long as no end has moved: a slider that is handed another does all of its work again. */
  const ends = $derived([low, high]);

  function onkeydown(event: KeyboardEvent): void {
    // Arrows are keys of the whole application elsewhere.
    event.stopPropagation();
  }
</script>

<div class="flex flex-col px-[5.5px] contain-content">
  {#if counts.length > 0}
    <div class="relative" style="height: {HEIGHT}px" aria-hidden="true">
      {#each ['var(--line)', 'var(--implied)'] as color, layer (color)}
        <svg
          class="absolute inset-0 block h-full w-full"
          viewBox="0 0 {counts.length} {HEIGHT}"
          preserveAspectRatio="none"
          style={layer === 0 ? '' : `clip-path: inset(0 ${100 - share(to)}% 0 ${share(from)}%)`}
          ><path d={bars} fill={color} opacity={layer === 0 ? 1 : 0.75} /></svg
        >
      {/each}
    </div>
  {/if}
  <Slider.Root
    type="multiple"
    thumbPositioning="exact"
    value={ends}
    {min}
    {max}
    {step}
    onValueChange={([least, most]) => {
      if (least === undefined || most === undefined) return;
      // What is only brought onto the steps has not been moved by anybody.
      const isMoved = Math.max(Math.abs(least - from), Math.abs(most - to)) > 0.51 * step;
      if (isMoved) onchange([least, most]);
    }}
    class="relative flex h-3.5 cursor-pointer touch-none items-center"
  >
    <span class="relative h-[3px] w-full rounded bg-line">
      <Slider.Range class="absolute h-full rounded bg-implied" />
    </span>
    {#each [0, 1] as const as index (index)}
      <Slider.Thumb
        {index}
        aria-label="{index === 0 ? 'Least' : 'Most'} {label}"
        aria-valuetext={words(index === 0 ? low : high)}
        class="block size-[11px] rounded-full border-2 border-ink outline-offset-2 {(
          index === 0 ? low === min : high === max
        )
          ? 'bg-panel'
          : 'bg-ink'}"
        {onkeydown}
      />
    {/each}
  </Slider.Root>
</div>
