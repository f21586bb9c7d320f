<script lang="ts">
  import { Pane, PaneGroup, PaneResizer } from 'paneforge';
  import type { Snippet } from 'svelte';

  interface Props {
    /** By which its sizes are kept in this browser. */
    id: string;
    /** Side by side, or one above the other. */
    direction: 'horizontal' | 'vertical';
    /** What the divider moves, for those who do not see it. */
    label: string;
    /** Of the first part before anybody has moved the divider: per cent. */
    size: number;
    /** The least of each part, per cent. */
    least?: readonly [number, number];
    /** Where one part is missing the other has all the room. */
    first: Snippet | null;
    second: Snippet | null;
  }

  let { id, direction, label, size, least = [15, 15], first, second }: Props = $props();
  const stored = () => `umwelt-split-${id}`;
  const readKept = () => Number(localStorage.getItem(stored())) || size;
  /** The share of the first part, per cent, as it was left. */
  let kept = $state(readKept());
  let now = $state(50);
  const isRow = $derived(direction === 'horizontal');

  /** Sizes come in a little off, by rounding. */
  const SAME = 0.01;
  function keep(layout: number[]): void {
    const [first] = layout;
    if (layout.length !== 2 || first === undefined || Math.abs(first - kept) < SAME) return;
    kept = first;
    localStorage.setItem(stored(), String(first));
  }
</script>

<!-- Two parts with a divider between them, which is dragged, or moved by arrows. -->
<PaneGroup {direction} onLayoutChange={keep} class="min-h-0 min-w-0 flex-1">
  {#if first}
    <Pane
      id="{id}-first"
      order={1}
      defaultSize={second ? kept : 100}
      minSize={least[0]}
      onResize={(percent) => (now = percent)}
      class="flex min-h-0 min-w-0 gap-2 {isRow ? '' : 'flex-col'}">{@render first()}</Pane
    >
  {/if}
  {#if first && second}
    <PaneResizer
      class="group relative flex-none {isRow ? 'w-2 cursor-col-resize' : 'h-2 cursor-row-resize'}"
      aria-label={label}
      aria-valuenow={Math.round(now)}
      aria-valuemin={least[0]}
      aria-valuemax={100 - least[1]}
      aria-controls="{id}-first"
    >
      <span
        class="absolute rounded bg-line opacity-0 group-hover:opacity-100 group-focus-visible:opacity-100 {isRow
          ? 'inset-y-0 left-[3px] w-[2px]'
          : 'inset-x-0 top-[3px] h-[2px]'}"
      ></span>
    </PaneResizer>
  {/if}
  {#if second}
    <Pane
      id="{id}-second"
      order={2}
      defaultSize={first ? 100 - kept : 100}
      minSize={least[1]}
      class="flex min-h-0 min-w-0 gap-2 {isRow ? '' : 'flex-col'}">{@render second()}</Pane
    >
  {/if}
</PaneGroup>
