<script lang="ts">
  import type { Snippet } from 'svelte';

  /** @prop open opens the working of the number */
  let { open, title = 'the working', children }: { open: () => void; title?: string; children: Snippet } = $props();
</script>

<button
  class="cursor-pointer hover:underline"
  {title}
  onclick={(event) => {
    // The row that it stands in has a meaning of its own.
    event.stopPropagation();
    open();
  }}>{@render children()}</button
>
