<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { HTMLAttributes } from 'svelte/elements';
  import { provideArea } from './area';
  import { notify } from './notices.svelte';

  /**
   * A part that is one stop for the tab key: arrows go from stop to stop in it (rows that can be chosen, numbers that lead to
   * their workings), Home and End to the first and the last row; copied without a selection, it is copied whole.
   *
   * @prop label what it holds, said when it is reached
   * @prop copied its text for the clipboard, lines of cells between tabs; '' where there is nothing
   * @prop hasStops whether arrows go through it
   * @prop element bound by those who scroll it
   * @prop room, breadth how many pixels of it are in view, down and across
   */
  let {
    label,
    copied,
    hasStops = true,
    element = $bindable(),
    room = $bindable(0),
    breadth = $bindable(0),
    children,
    ...rest
  }: {
    label: string;
    copied?: () => string;
    hasStops?: boolean;
    element?: HTMLDivElement | undefined;
    room?: number;
    breadth?: number;
    children: Snippet;
  } & HTMLAttributes<HTMLDivElement> = $props();

  provideArea();

  const stopsIn = (row: HTMLElement) => [
    ...(row.matches('[data-stop]') ? [row] : []),
    ...row.querySelectorAll<HTMLElement>('[data-stop]'),
  ];
  /** Rows that hold a stop, from the top: where elements are used again their order is not that of the rows. */
  function rowsOf(): HTMLElement[] {
    const all = [...(element?.querySelectorAll<HTMLElement>('tr, [role="row"]') ?? [])];
    const placeOf = (row: HTMLElement) => Number(row.ariaRowIndex ?? 0);
    return all.filter((row) => stopsIn(row).length > 0).sort((a, b) => placeOf(a) - placeOf(b));
  }

  /** The stop that a key leads to. */
  function next(key: string): HTMLElement | undefined {
    const rows = rowsOf();
    const { activeElement } = document;
    if (key === 'Home' || key === 'End') return stopsIn(rows.at(key === 'Home' ? 0 : -1)!)[0];
    const row = rows.findIndex((one) => one.contains(activeElement));
    if (row < 0) return stopsIn(rows[0]!)[0];
    const stops = stopsIn(rows[row]!);
    const column = stops.indexOf(activeElement as HTMLElement);
    if (key === 'ArrowLeft' || key === 'ArrowRight') return stops[column + (key === 'ArrowRight' ? 1 : -1)];
    // Up and down keep to the column, or to the last of a shorter row.
    const other = rows[row + (key === 'ArrowDown' ? 1 : -1)];
    const others = other ? stopsIn(other) : [];
    return others[Math.min(column, others.length - 1)];
  }

  function onkeydown(event: KeyboardEvent): void {
    if (!hasStops || !/^(Arrow|Home$|End$)/.test(event.key)) return;
    if (event.altKey || event.ctrlKey || event.metaKey || event.shiftKey) return;
    // Fields and other buttons of the area have these keys to themselves.
    const isHere = event.target === element || (event.target instanceof HTMLElement && 'stop' in event.target.dataset);
    if (!isHere || rowsOf().length === 0) return;
    event.preventDefault();
    event.stopPropagation();
    next(event.key)?.focus();
  }

  function oncopy(event: ClipboardEvent): void {
    const isField = event.target instanceof HTMLInputElement || event.target instanceof HTMLTextAreaElement;
    const text = isField || String(getSelection()) !== '' ? '' : (copied?.() ?? '');
    if (text === '') return;
    event.clipboardData?.setData('text/plain', text);
    event.preventDefault();
    notify(`Copied ${text.split('\n').length - 1} rows with their heads`);
  }
</script>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<div
  {...rest}
  bind:this={element}
  bind:clientHeight={room}
  bind:clientWidth={breadth}
  tabindex="0"
  role="group"
  aria-label={label}
  {onkeydown}
  {oncopy}
>
  {@render children()}
</div>
