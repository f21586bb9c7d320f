<script lang="ts">
  /**
   * A number that is typed or stepped by arrows, taken over when it is left or entered. What is no number in range is not, and
   * the field says again what holds.
   *
   * @prop none what an empty field stands for; without it one is not taken over
   */
  let {
    label,
    value = $bindable(),
    min = -Infinity,
    max = Infinity,
    step = 'any',
    none,
    placeholder,
    class: ownClass = 'w-12',
  }: {
    label: string;
    value: number;
    min?: number;
    max?: number;
    step?: number | 'any';
    none?: number;
    placeholder?: string | undefined;
    class?: string;
  } = $props();

  const shown = $derived(value === none ? '' : value);

  function take(field: HTMLInputElement): void {
    const typed = field.value === '' && !field.validity.badInput ? (none ?? NaN) : field.valueAsNumber;
    if (typed === none || (typed >= min && typed <= max)) value = typed;
    field.value = String(shown);
  }
</script>

<input
  class="figures rounded-[3px] border border-line bg-panel px-1 text-right text-[11.5px]! {ownClass}"
  type="number"
  min={Number.isFinite(min) ? min : undefined}
  max={Number.isFinite(max) ? max : undefined}
  {step}
  aria-label={label}
  {placeholder}
  value={shown}
  onkeydown={(event) => {
    // Digits and arrows are keys of the application elsewhere; Escape closes what the field stands in.
    if (event.key !== 'Escape') event.stopPropagation();
  }}
  onchange={(event) => take(event.currentTarget)}
/>
