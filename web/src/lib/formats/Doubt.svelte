<script lang="ts">
  /**
   * One standard error beside a number, where it exceeds what its digits say. It is drawn and no text of the cell, so that a
   * number that is copied stays one.
   */
  let { text }: { text: string } = $props();
</script>

{#if text}<span class="doubt" data-doubt={text} title="{text}: one standard error, as far as the quotes tell"
  ></span>{/if}
