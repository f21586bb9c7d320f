<script lang="ts">
  import { placeOnShelf, SHELF, type ShelfName } from '@umwelt/core';
  import { useWorkbench } from '$lib/state';

  /** Structures of the trade, placed by their deltas on the expiry in focus. */
  const bench = useWorkbench();
  const snapshot = $derived(bench.snapshot.snapshot);
  const USUAL_DAYS = 30;

  /** The expiry in focus, or the one nearest to a month. */
  const chosen = $derived.by(() => {
    const named = bench.focus.current?.slice;
    if (named !== undefined || !snapshot) return named ?? -1;
    const away = (i: number) => Math.abs(snapshot.slices[i]!.fit.days - USUAL_DAYS);
    return snapshot.slices.reduce((best, _, i) => (best < 0 || away(i) < away(best) ? i : best), -1);
  });
  const placed = $derived(
    snapshot && chosen >= 0 ? SHELF.map((name) => ({ name, legs: placeOnShelf(snapshot, name, chosen) })) : [],
  );

  function take(name: string): void {
    const legs = placed.find((one) => one.name === (name as ShelfName))?.legs;
    if (legs) bench.context.legs = legs;
  }
</script>

<select
  class="choice max-w-[88px]"
  aria-label="Shelf"
  title="structures of the trade, placed by delta on the expiry in focus"
  value=""
  disabled={placed.length === 0}
  onchange={(event) => {
    take(event.currentTarget.value);
    event.currentTarget.value = '';
  }}
>
  <option value="">shelf …</option>
  {#each placed as { name, legs } (name)}<option value={name} disabled={legs === null}>{name}</option>{/each}
</select>
