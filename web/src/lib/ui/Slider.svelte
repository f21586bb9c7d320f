<script lang="ts">
  import { Slider } from 'bits-ui';

  /**
   * A number between two ends, dragged or moved by arrows (ten steps with shift). The thumb goes from end to end: to keep it inside
   * it would be measured at every step, and the page laid out for it.
   *
   * @prop color a colour of the theme
   */
  let {
    label,
    value = $bindable(),
    min,
    max,
    step,
    color = 'implied',
    class: ownClass = '',
  }: {
    label: string;
    value: number;
    min: number;
    max: number;
    step: number;
    color?: 'implied' | 'target';
    class?: string;
  } = $props();

  function onkeydown(event: KeyboardEvent): void {
    // Arrows are keys of the whole application elsewhere.
    event.stopPropagation();
  }
</script>

<Slider.Root
  type="single"
  bind:value
  {min}
  {max}
  {step}
  thumbPositioning="exact"
  class="relative mx-[6.5px] flex h-5 cursor-pointer touch-none items-center {ownClass}"
>
  <span class="relative h-[3px] w-full rounded bg-line">
    <Slider.Range class="absolute h-full rounded" style="background: var(--{color})" />
  </span>
  <Slider.Thumb
    index={0}
    aria-label={label}
    class="block size-[13px] rounded-full border-2 bg-panel outline-offset-2"
    style="border-color: var(--{color})"
    {onkeydown}
  />
</Slider.Root>
