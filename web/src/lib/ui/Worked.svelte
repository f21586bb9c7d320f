<script lang="ts">
  import type { Snippet } from 'svelte';
  import { isInArea } from './area';

  /** @prop open opens the working of the number */
  let { open, title = 'the working', children }: { open: () => void; title?: string; children: Snippet } = $props();
  const tabindex = isInArea() ? -1 : undefined;
</script>

<button
  class="cursor-pointer hover:underline"
  data-stop
  {tabindex}
  {title}
  onclick={(event) => {
    // The row that it stands in has a meaning of its own.
    event.stopPropagation();
    open();
  }}>{@render children()}</button
>
