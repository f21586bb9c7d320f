<script lang="ts">
  import { prettyJson, type Operation } from './document';
  import { problemOf } from '$lib/data/loaded.svelte';

  let { method, example }: { method: string; example: NonNullable<Operation['example']> } = $props();

  /** Characters of an answer shown at most. */
  const MOST_TEXT = 6000;

  interface Answer {
    status: number;
    milliseconds: number;
    bytes: number;
    text: string;
  }
  let answer = $state.raw<Answer | null>(null);
  let isRunning = $state(false);
  let problem = $state<string | null>(null);

  const address = $derived(`/api/v1${example.address}`);
  /** The request is sent exactly as shown. */
  const body = $derived(example.body === undefined ? null : prettyJson(example.body));

  function shownOf(text: string, type: string): string {
    const pretty = type.includes('json') ? prettyJson(JSON.parse(text)) : text;
    return pretty.length > MOST_TEXT ? `${pretty.slice(0, MOST_TEXT)}\n…` : pretty;
  }

  async function run(): Promise<void> {
    isRunning = true;
    problem = null;
    const begun = performance.now();
    try {
      const response = await fetch(address, { method, ...(body !== null && { body }) });
      const text = await response.text();
      answer = {
        status: response.status,
        milliseconds: performance.now() - begun,
        bytes: new TextEncoder().encode(text).length,
        text: shownOf(text, response.headers.get('content-type') ?? ''),
      };
    } catch (error) {
      problem = problemOf(error);
    } finally {
      isRunning = false;
    }
  }
</script>

<div class="rounded border border-line bg-page p-2">
  <div class="flex items-start gap-2">
    <pre class="figures m-0 min-w-0 flex-1 text-[12px] break-all whitespace-pre-wrap">{method} {address}{body !== null
        ? `\n\n${body}`
        : ''}</pre>
    <button class="btn flex-none border-line bg-panel btn-xs" onclick={run} disabled={isRunning}
      >{isRunning ? 'asking …' : 'run'}</button
    >
  </div>
  {#if problem}<p class="m-0 mt-1 text-loss" role="alert">{problem}</p>{/if}
  {#if answer}
    <p class="figures m-0 mt-2 border-t border-line pt-1 text-[12px] text-soft" role="status">
      {answer.status} · {answer.milliseconds.toFixed(0)} ms · {answer.bytes.toLocaleString('en-US')} bytes
    </p>
    <!-- svelte-ignore a11y_no_noninteractive_tabindex -->
    <pre
      class="figures m-0 mt-1 max-h-[320px] overflow-auto text-[12px] whitespace-pre-wrap"
      tabindex="0"
      aria-label="Answer">{answer.text}</pre>
  {/if}
</div>
