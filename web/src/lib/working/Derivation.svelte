<script lang="ts">
  import Copy from '@lucide/svelte/icons/copy';
  import 'katex/dist/katex.min.css';
  import type { WorkingLine } from './lines';

  /** @prop at the key of the line that was asked for */
  let { lines, at }: { lines: readonly WorkingLine[]; at?: string | undefined } = $props();

  let katex = $state.raw<typeof import('katex').default | null>(null);
  let failed = $state(false);
  import('katex').then(
    (loaded) => (katex = loaded.default),
    () => (failed = true),
  );
  let copied = $state(-1);

  const html = (tex: string) =>
    katex?.renderToString(tex, { throwOnError: false, displayMode: false, output: 'htmlAndMathml' }) ?? '';

  async function copy(line: WorkingLine, i: number): Promise<void> {
    await navigator.clipboard.writeText(line.tex);
    copied = i;
  }
</script>

{#if failed}
  <p class="text-loss">The formulas could not be loaded. Reload the page.</p>
{:else if !katex}
  <p class="text-soft">Loading …</p>
{:else}
  <ol class="m-0 list-none p-0" data-testid="working">
    {#each lines as line, i (i)}
      {@const isAsked = at !== undefined && line.key === at}
      <li
        class="group flex items-start gap-1 border-b border-line py-1 {isAsked ? 'bg-band' : ''}"
        aria-current={isAsked ? 'true' : undefined}
        {@attach (element) => {
          if (isAsked) element.scrollIntoView({ block: 'center' });
        }}
      >
        <div class="min-w-0 flex-1">
          {#if line.words}<p class="m-0 text-[11px] text-soft">{line.words}</p>{/if}
          <!-- eslint-disable-next-line svelte/no-at-html-tags -- KaTeX's own markup of our own formula -->
          <div class="overflow-x-auto text-[13px]">{@html html(line.tex)}</div>
        </div>
        <button
          class="cursor-pointer rounded p-0.5 text-faint hover:text-ink focus-visible:text-ink"
          title="copy the line as TeX"
          aria-label="Copy line {i + 1}"
          onclick={() => copy(line, i)}
        >
          {#if copied === i}<span class="text-[11px]">copied</span>{:else}<Copy size={13} />{/if}
        </button>
      </li>
    {/each}
  </ol>
{/if}
