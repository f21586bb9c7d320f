<script lang="ts">
  /** One standard error beside a number, where it exceeds what its digits say. */
  let { text }: { text: string } = $props();
</script>

{#if text}<span class="text-[10.5px] font-normal text-soft" title="one standard error, as far as the quotes tell"
    >{text}</span
  >{/if}
