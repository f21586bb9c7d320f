<script lang="ts">
  import { LIMITED, limitUses, type Limited, type RiskSums } from '@umwelt/core';
  import { call } from '$lib/api/call';
  import { figures } from '$lib/formats';
  import { NumberField, Popover } from '$lib/ui';
  import type { BookDesk } from './desk.svelte';

  /** How much of each limit is used. */
  let { desk }: { desk: BookDesk } = $props();

  const NAMES: Record<Limited, string> = {
    worst: 'worst cell',
    delta: 'delta in money',
    gamma: 'gamma for 1 %',
    vega: 'vega, net',
    theta: 'theta a day',
    share: 'one underlying',
  };
  const underlyings = $derived<RiskSums[]>(
    (desk.tree?.parts ?? []).flatMap(({ parts }) => parts.map(({ sums }) => sums)),
  );
  const uses = $derived(
    desk.book && desk.tree
      ? limitUses(
          desk.book.limits,
          desk.tree.sums,
          underlyings,
          desk.scenario ? Math.max(0, -desk.scenario.worst.pnl) : NaN,
        )
      : [],
  );
  const write = (what: Limited, value: number) =>
    what === 'share' ? figures.percent(value, 0) : figures.fixed(value, 0);

  function set(what: Limited, most: number): void {
    const { book } = desk;
    if (!book) return;
    const others = book.limits.filter((limit) => limit.what !== what);
    const limits = most > 0 ? [...others, { what, most: what === 'share' ? most / 100 : most }] : others;
    void desk.change(call('PUT /books/{id}', { path: { id: book.id }, body: { version: book.version, limits } }));
  }
  const mostOf = (what: Limited) => {
    const most = desk.book?.limits.find((limit) => limit.what === what)?.most ?? 0;
    return what === 'share' ? 100 * most : most;
  };
</script>

<section class="panel flex-none" aria-label="Limits">
  <header class="flex flex-none items-center gap-2 px-3 pt-2">
    <h2 class="text-[15px] font-bold">Limits</h2>
    <span class="min-w-0 flex-1 truncate text-[12px] text-soft">as far as they are used</span>
    {#snippet trigger()}set{/snippet}
    <Popover label="Set limits" {trigger}>
      <div class="grid grid-cols-[auto_auto] items-center gap-x-2 gap-y-1">
        {#each LIMITED as what (what)}
          <span class="text-soft">{NAMES[what]}{what === 'share' ? ', %' : ''}</span>
          <NumberField
            label="Limit of {NAMES[what]}"
            bind:value={() => mostOf(what), (most) => set(what, most)}
            min={0}
            none={0}
            class="w-24"
          />
        {/each}
      </div>
    </Popover>
  </header>
  <div class="flex flex-col gap-0.5 px-3 pt-1 pb-2" data-testid="book-limits">
    {#each uses as { what, most, used } (what)}
      {@const share = used / most}
      <div class="grid grid-cols-[7.5rem_1fr_auto_3rem] items-center gap-2 text-[12px]">
        <span>{NAMES[what]}</span>
        <span class="relative h-1.5 rounded-full bg-band" aria-hidden="true"
          ><span
            class="absolute inset-y-0 left-0 rounded-full {share > 1 ? 'bg-[var(--loss)]' : 'bg-implied'}"
            style="width: {Math.min(100, 100 * (share || 0))}%"
          ></span></span
        >
        <span class="figures text-right text-[11px]!">{write(what, used)} of {write(what, most)}</span>
        <span class="figures text-right text-[11px]! {share > 1 ? 'font-semibold text-loss' : ''}"
          >{figures.percent(share, 0)}</span
        >
      </div>
    {:else}
      <p class="m-0 text-[12px] text-soft">{desk.book ? 'No limits are set.' : '–'}</p>
    {/each}
  </div>
</section>
