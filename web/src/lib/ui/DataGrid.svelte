<script lang="ts" module>
  import type { Snippet } from 'svelte';

  /** The head of a column. */
  export interface Head {
    label: string;
    /** What it means, in words. */
    title?: string | undefined;
    align?: 'left' | 'center';
    class?: string;
    /** What rows are ordered by where it is clicked; not at all without. */
    order?: string;
    /** Drawn by the table's own `head`, since it has parts besides words. */
    hasParts?: boolean;
    /** Whether it is for those alone who do not see the table. */
    isHidden?: boolean;
  }
</script>

<script lang="ts" generics="Row">
  import type { ClassValue } from 'svelte/elements';
  import { tabbedCells } from './area';
  import KeyArea from './KeyArea.svelte';

  /**
   * A table: heads that stay, rows that are chosen by click and by Enter, arrows from row to row, copied whole.
   *
   * @prop row the cells of a row
   * @prop heads of the columns; one without words is an empty cell
   * @prop head what a head is that has parts besides words
   * @prop none what is said where there are no rows
   * @prop above a line of heads over those of the columns
   * @prop first rows that are always the first
   * @prop below rows that are always the last
   * @prop sort the key of the column that rows are ordered by, and which way
   * @prop isLit whether a row stands for what is in focus
   * @prop isEdged whether the table ends at the edge of its panel
   * @prop area classes of the part that scrolls
   */
  interface Props {
    label: string;
    heads: readonly Head[];
    rows: readonly Row[];
    keyOf: (row: Row, at: number) => unknown;
    row: Snippet<[Row, number]>;
    head?: Snippet<[Head, number]>;
    above?: Snippet;
    first?: Snippet;
    below?: Snippet;
    sort?: { id: string; desc: boolean } | null | undefined;
    onsort?: (key: string) => void;
    onchoose?: ((row: Row, at: number) => void) | undefined;
    canChoose?: (row: Row) => boolean;
    isLit?: (row: Row, at: number) => boolean;
    onpoint?: (row: Row | null) => void;
    rowTitle?: string | ((row: Row) => string);
    rowClass?: ClassValue | ((row: Row, at: number) => ClassValue);
    none?: string;
    class?: ClassValue;
    area?: string;
    isEdged?: boolean;
    isDense?: boolean;
    testid?: string;
    element?: HTMLDivElement | undefined;
  }

  let {
    label,
    heads,
    rows,
    keyOf,
    row,
    head: parts,
    above,
    first,
    below,
    sort,
    onsort,
    onchoose,
    canChoose = () => true,
    isLit,
    onpoint,
    rowTitle,
    rowClass,
    none,
    class: ownClass = '',
    area = 'min-h-0 flex-1 overflow-auto',
    isEdged = false,
    isDense = false,
    testid,
    element = $bindable(),
  }: Props = $props();

  let table = $state<HTMLTableElement>();
  const ALIGN = { left: 'text-left!', center: 'text-center!' };

  const classOf = (one: Row, at: number) => (typeof rowClass === 'function' ? rowClass(one, at) : rowClass);

  function onRowKey(event: KeyboardEvent, one: Row, at: number): void {
    if (event.target !== event.currentTarget || (event.key !== 'Enter' && event.key !== ' ')) return;
    event.preventDefault();
    event.stopPropagation();
    onchoose?.(one, at);
  }
</script>

{#snippet words({ label: text, order, isHidden }: Head)}
  {#if isHidden}<span class="sr-only">{text}</span>
  {:else if order !== undefined && onsort}
    <button class={['cursor-pointer', sort?.id === order && 'font-semibold text-ink']} onclick={() => onsort(order)}
      >{text}{sort?.id === order ? (sort.desc ? ' ▾' : ' ▴') : ''}</button
    >
  {:else}{text}{/if}
{/snippet}

<KeyArea {label} class={area} bind:element copied={() => (table ? tabbedCells(table) : '')}>
  <table
    class={['w-full border-collapse', isDense && 'dense', isEdged && 'edged', ownClass]}
    role={onchoose ? 'grid' : undefined}
    data-testid={testid}
    bind:this={table}
  >
    <thead>
      {@render above?.()}
      <tr>
        {#each heads as head, i (i)}
          {@const classes = ['head-cell', head.title && 'cursor-help', head.align && ALIGN[head.align], head.class]}
          {#if head.label === '' && !head.hasParts}<td class={classes}></td>
          {:else}
            <th
              class={classes}
              aria-sort={head.order === undefined || !onsort
                ? undefined
                : sort?.id === head.order
                  ? sort.desc
                    ? 'descending'
                    : 'ascending'
                  : 'none'}
              title={head.title}
              >{#if head.hasParts}{@render parts?.(head, i)}{:else}{@render words(head)}{/if}</th
            >
          {/if}
        {/each}
      </tr>
    </thead>
    <tbody>
      {@render first?.()}
      {#each rows as one, i (keyOf(one, i))}
        {@const isChosen = isLit?.(one, i) ?? false}
        {#if onchoose && canChoose(one)}
          <tr
            class={['choosable border-b border-line', isChosen && 'bg-band font-semibold', classOf(one, i)]}
            aria-selected={isChosen}
            data-focus={isChosen}
            title={typeof rowTitle === 'function' ? rowTitle(one) : rowTitle}
            data-key={keyOf(one, i)}
            data-stop
            tabindex="-1"
            onclick={() => onchoose(one, i)}
            onkeydown={(event) => onRowKey(event, one, i)}
            onpointerenter={onpoint && (() => onpoint(one))}
            onpointerleave={onpoint && (() => onpoint(null))}
            onfocus={onpoint && (() => onpoint(one))}
            onblur={onpoint && (() => onpoint(null))}>{@render row(one, i)}</tr
          >
        {:else}
          <tr
            class={['border-b border-line', isChosen && 'bg-band font-semibold', classOf(one, i)]}
            data-key={keyOf(one, i)}
            data-focus={isChosen}>{@render row(one, i)}</tr
          >
        {/if}
      {:else}
        {#if none}<tr><td class="p-3 text-soft" colspan={heads.length}>{none}</td></tr>{/if}
      {/each}
      {@render below?.()}
    </tbody>
  </table>
</KeyArea>
