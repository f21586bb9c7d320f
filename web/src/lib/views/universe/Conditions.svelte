<script lang="ts">
  import X from '@lucide/svelte/icons/x';
  import { figures } from '$lib/formats';
  import { useParams } from '$lib/state';
  import { FLAGS, KNOWN_COLUMNS } from '$lib/columns';
  import type { ScreenDesk } from './desk.svelte';
  import { PARAMS } from './params';

  let { desk }: { desk: ScreenDesk } = $props();

  const params = useParams(PARAMS);

  interface Chip {
    word: string;
    text: string;
    title?: string;
    removed?: number | null;
    remove: () => void;
  }

  const isKnown = new Set(KNOWN_COLUMNS.map(({ key }) => key));
  const without = (list: readonly string[], one: string) => list.filter((other) => other !== one);

  const chips = $derived.by((): Chip[] => {
    const flagOf = (formula: string) => FLAGS.find((flag) => flag.formula === formula);
    return [
      ...params.families.map((family) => ({
        ...{ word: 'family', text: family },
        remove: () => (params.families = without(params.families, family)),
      })),
      ...params.keep.map((formula) => ({
        word: flagOf(formula) ? `only ${flagOf(formula)!.word}` : 'only',
        text: formula,
        removed: desk.values?.removed(formula),
        remove: () => (params.keep = without(params.keep, formula)),
      })),
      ...params.show
        .filter((key) => !isKnown.has(key))
        .map((key) => ({
          ...{ word: 'shows', text: key },
          remove: () => {
            if (params.show.length > 1) params.show = without(params.show, key);
          },
        })),
    ];
  });
</script>

{#if chips.length > 0}
  <ul class="m-0 flex list-none flex-wrap gap-1.5 p-0" aria-label="Columns and conditions">
    {#each chips as { word, text, removed, remove } (word + text)}
      <li class="flex items-center gap-1.5 rounded border border-line bg-band px-1.5">
        <span class="text-soft">{word}</span>
        <span class="figures text-[12px]!">{text}</span>
        {#if removed !== undefined && removed !== null}<span
            class="text-soft"
            title="this condition alone leaves out so many">leaves out {figures.count(removed)}</span
          >{/if}
        <button class="cursor-pointer text-soft hover:text-ink" aria-label="Remove {text}" onclick={remove}
          ><X size={11} /></button
        >
      </li>
    {/each}
  </ul>
{/if}
