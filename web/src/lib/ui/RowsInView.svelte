<script lang="ts">
  import type { Snippet } from 'svelte';
  import type { HTMLAttributes } from 'svelte/elements';
  import KeyArea from './KeyArea.svelte';
  import { rowsInView } from './rows-in-view';

  /**
   * A table of any length, of which the rows in view are there: one that leaves at one end takes its elements to the other,
   * since making them again takes too long. Its parts say their roles themselves, in elements that are no table.
   *
   * @prop row draws a row by its position, in an element of `height` pixels
   * @prop heads stays at the top
   * @prop none stands in place of rows where there are none
   * @prop width of the rows, at least that of the part in view
   * @prop hasStops whether arrows go through what it holds; where they have another meaning they do not
   * @prop body what listens to events of the rows
   * @prop scrolled how far it is scrolled, to be bound
   * @prop room, breadth how many pixels of it are in view, down and across
   */
  let {
    label,
    count,
    height,
    heads,
    row,
    none,
    copied,
    width = '100%',
    hasStops = true,
    class: ownClass = '',
    bodyClass = '',
    body = {},
    element = $bindable(),
    scrolled = $bindable(0),
    room = $bindable(0),
    breadth = $bindable(0),
    ...rest
  }: {
    label: string;
    count: number;
    height: number;
    heads: Snippet;
    row: Snippet<[number]>;
    none?: Snippet;
    copied: () => string;
    width?: string;
    hasStops?: boolean;
    class?: string;
    bodyClass?: string;
    body?: HTMLAttributes<HTMLDivElement>;
    element?: HTMLDivElement | undefined;
    scrolled?: number;
    room?: number;
    breadth?: number;
  } & Omit<HTMLAttributes<HTMLDivElement>, 'class'> = $props();

  const slots = $derived(rowsInView(scrolled, room, height, count));
</script>

<KeyArea
  {label}
  {copied}
  {hasStops}
  class={ownClass}
  bind:element
  bind:room
  bind:breadth
  onscroll={() => (scrolled = element?.scrollTop ?? 0)}
  {...rest}
>
  <div role="table" aria-label={label} aria-rowcount={count + 1}>
    <div class="sticky top-0 z-20 bg-panel {bodyClass}" style="min-width: {width}" role="rowgroup">
      {@render heads()}
    </div>
    {#if count === 0}{@render none?.()}
    {:else}
      <div
        {...body}
        class="relative {bodyClass}"
        style="min-width: {width}; height: {height * count}px"
        role="rowgroup"
      >
        {#each slots as at, slot (slot)}
          {#if at < count}
            <div
              class="absolute inset-x-0 top-0 contain-strict"
              style="height: {height}px; transform: translateY({height * at}px)"
            >
              {@render row(at)}
            </div>
          {/if}
        {/each}
      </div>
    {/if}
  </div>
</KeyArea>
