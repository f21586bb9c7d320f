<script lang="ts">
  import { checkFormula, completionsAt, FormulaError, type CheckedFormula } from '@umwelt/core';
  import { tick } from 'svelte';
  import { measureNamed, OFFERED_MEASURES } from '$lib/columns';

  let { onadd }: { onadd: (formula: CheckedFormula) => void } = $props();

  const MOST_OFFERED = 7;
  let text = $state('');
  let caret = $state(0);
  /** Which of what is offered is lit; −1 for none, when Enter adds what is written. */
  let lit = $state(-1);
  let isOpen = $state(false);
  /** Whether it was submitted: errors are not shown while the formula is still being typed. */
  let isAsked = $state(false);
  let element = $state<HTMLInputElement>();

  const read = $derived.by((): { checked: CheckedFormula | null; error: FormulaError | null } => {
    try {
      return { checked: checkFormula(text, measureNamed), error: null };
    } catch (error) {
      if (error instanceof FormulaError) return { checked: null, error };
      throw error;
    }
  });
  const offered = $derived(completionsAt(text, caret, OFFERED_MEASURES));
  /** Nothing is offered before a word is begun, nor once it is written whole. */
  const words = $derived(
    isOpen && offered.to > offered.from && offered.words[0]?.text !== text.slice(offered.from, offered.to)
      ? offered.words.slice(0, MOST_OFFERED)
      : [],
  );
  const error = $derived(isAsked && text.trim() !== '' ? read.error : null);

  function follow(): void {
    caret = element?.selectionStart ?? text.length;
  }

  async function take(at: number): Promise<void> {
    const { text: word, kind } = words[at]!;
    const more = kind === 'function' ? `${word}(` : word;
    text = text.slice(0, offered.from) + more + text.slice(offered.to);
    const next = offered.from + more.length;
    lit = -1;
    isOpen = false;
    await tick();
    element?.focus();
    element?.setSelectionRange(next, next);
    follow();
  }

  function add(): void {
    isAsked = true;
    if (!read.checked) return;
    onadd(read.checked);
    text = '';
    isAsked = false;
    isOpen = false;
  }

  function press(event: KeyboardEvent): void {
    event.stopPropagation();
    if (words.length > 0 && (event.key === 'ArrowDown' || event.key === 'ArrowUp')) {
      const by = event.key === 'ArrowDown' ? 1 : -1;
      lit = (lit + by + words.length + (lit < 0 && by < 0 ? 1 : 0)) % words.length;
    } else if (words.length > 0 && event.key === 'Tab' && !event.shiftKey) void take(Math.max(0, lit));
    else if (event.key === 'Enter' && lit >= 0 && words.length > 0) void take(lit);
    else if (event.key === 'Enter') add();
    else if (event.key === 'Escape' && isOpen) isOpen = false;
    else return;
    event.preventDefault();
  }
</script>

<div class="relative min-w-0 flex-1">
  <div class="flex items-center gap-1.5">
    <input
      bind:this={element}
      bind:value={text}
      class="figures w-full rounded-[5px] border border-line bg-panel px-2 py-0.5 text-[12px]! {error
        ? 'border-loss'
        : ''}"
      placeholder="a column or a condition: iv30 / hv60.yz - 1, rank(iv30, 252) < 20%"
      aria-label="Column or condition"
      role="combobox"
      aria-expanded={words.length > 0}
      aria-controls="formula-words"
      aria-invalid={error !== null}
      aria-describedby="formula-error"
      autocomplete="off"
      spellcheck="false"
      maxlength="500"
      oninput={() => {
        isOpen = true;
        lit = -1;
        isAsked = false;
        follow();
      }}
      onkeydown={press}
      onkeyup={follow}
      onclick={follow}
      onblur={() => (isOpen = false)}
    />
    <button class="btn btn-xs" disabled={text.trim() === ''} onclick={add}
      >{read.checked?.kind === 'truth' ? 'filter' : 'add'}</button
    >
  </div>
  <p id="formula-error" class="figures m-0 text-[12px]! leading-tight text-loss" role="status">
    {#if error}
      <!-- Under the characters that it is about: the type is of one width. -->
      <span class="block whitespace-pre" style="margin-left: calc(0.5rem + 1px + {error.from}ch)" aria-hidden="true"
        >{'^'.repeat(Math.max(1, Math.min(60, error.to - error.from)))}</span
      >
      {error.message}
    {/if}
  </p>
  {#if words.length > 0}
    <ul
      id="formula-words"
      role="listbox"
      aria-label="Words that fit"
      class="absolute top-full left-0 z-30 m-0 w-[420px] list-none rounded border border-line bg-panel p-0 shadow"
    >
      {#each words as word, i (word.kind + word.text)}
        <li
          role="option"
          aria-selected={i === lit}
          class="flex cursor-pointer gap-3 px-2 py-0.5 text-[12px] {i === lit ? 'bg-band' : ''}"
          onpointerdown={(event) => {
            event.preventDefault();
            void take(i);
          }}
        >
          <span class="figures w-24 flex-none text-[12px]!">{word.text}{word.kind === 'function' ? '( )' : ''}</span>
          <span class="truncate text-soft">{word.title}</span>
        </li>
      {/each}
    </ul>
  {/if}
</div>
