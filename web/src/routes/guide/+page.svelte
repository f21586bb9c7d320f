<script lang="ts">
  import { guide } from '$lib/app/guide';

  const html = guide();
</script>

<svelte:head><title>Guide · Umwelt</title></svelte:head>

<!-- svelte-ignore a11y_no_noninteractive_tabindex -->
<main class="h-screen overflow-y-auto bg-page p-4" tabindex="0" aria-label="Guide">
  <article class="guide panel mx-auto max-w-[860px] px-8 py-5 text-[14px]">
    <a class="self-end text-soft underline-offset-4 hover:underline" href="/universe">Umwelt</a>
    <!-- eslint-disable-next-line svelte/no-at-html-tags -- our own page, made when the application is built -->
    {@html html}
  </article>
</main>

<style>
  .guide :global {
    h1 {
      margin: 0 0 8px;
      font-size: 22px;
      font-weight: 700;
    }
    h2 {
      margin: 22px 0 6px;
      font-size: 17px;
      font-weight: 700;
    }
    p,
    ul {
      margin: 0 0 10px;
      line-height: 1.55;
    }
    ul {
      padding-left: 20px;
      list-style: disc;
    }
    img {
      width: 100%;
      height: auto;
      border: 1px solid var(--line);
      border-radius: 6px;
    }
    code {
      padding: 1px 4px;
      border: 1px solid var(--line);
      border-radius: 4px;
      font-family: var(--font-mono);
      font-size: 12.5px;
    }
  }
</style>
