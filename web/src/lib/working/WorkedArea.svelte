<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { HTMLAttributes } from 'svelte/elements';
  import { provideArea } from './area';

  /**
   * A table whose numbers lead to their workings: one stop for the tab key, and arrows go from number to number.
   *
   * @prop label what it holds, said when it is reached
   * @prop element bound by those who scroll it
   */
  let {
    label,
    element = $bindable(),
    children,
    ...rest
  }: {
    label: string;
    element?: HTMLDivElement | undefined;
    children: Snippet;
  } & HTMLAttributes<HTMLDivElement> = $props();

  provideArea();

  const numbersIn = (from: ParentNode) => [...from.querySelectorAll<HTMLElement>('[data-worked]')];
  const rowOf = (number: HTMLElement) => number.closest<HTMLElement>('tr, [role="row"]');

  /** The number that an arrow leads to. */
  function next(key: string): HTMLElement | undefined {
    const all = element ? numbersIn(element) : [];
    const { activeElement } = document;
    const at = activeElement instanceof HTMLElement ? all.indexOf(activeElement) : -1;
    if (at < 0) return all[0];
    if (key === 'ArrowLeft' || key === 'ArrowRight') return all[at + (key === 'ArrowRight' ? 1 : -1)];
    // Up and down keep to the column, or to the last of a shorter row.
    const rows = [...new Set(all.map(rowOf))].filter((row) => row !== null);
    const row = rows.indexOf(rowOf(all[at]!)!);
    const column = numbersIn(rows[row]!).indexOf(all[at]!);
    const other = rows[row + (key === 'ArrowDown' ? 1 : -1)];
    const numbers = other ? numbersIn(other) : [];
    return numbers[Math.min(column, numbers.length - 1)];
  }

  function onkeydown(event: KeyboardEvent): void {
    if (!event.key.startsWith('Arrow') || event.altKey || event.ctrlKey || event.metaKey || event.shiftKey) return;
    // Fields and other buttons of the area have the arrows to themselves.
    const isHere =
      event.target === element || (event.target instanceof HTMLElement && 'worked' in event.target.dataset);
    if (!isHere) return;
    event.preventDefault();
    event.stopPropagation();
    next(event.key)?.focus();
  }
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div {...rest} bind:this={element} tabindex="0" role="group" aria-label={label} {onkeydown}>{@render children()}</div>
