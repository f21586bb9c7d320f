<script lang="ts">
  /**
   * One standard error beside a number, where it exceeds what its digits say. It is drawn and no text of the cell, so that a
   * number that is copied stays one.
   */
  interface Props {
    text: string;
    /** Where there is no room for the size: it is in the title. */
    isSign?: boolean;
  }
  let { text, isSign = false }: Props = $props();
</script>

{#if text}<span
    class="doubt"
    data-doubt={isSign ? '±' : text}
    title="{text}: one standard error, as far as the quotes tell"
  ></span>{/if}
