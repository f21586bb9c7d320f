<script lang="ts" generics="T extends string">
  interface Props {
    /** What the tabs say of themselves to those who do not see them. */
    label: string;
    options: readonly T[];
    value: T;
    names: Readonly<Record<T, string>>;
    /** The title while a tab is in view, where that says more than its name. */
    title?: string;
    titleTestId?: string;
  }

  let { label, options, value = $bindable(), names, title, titleTestId }: Props = $props();
</script>

<!-- Names of the pictures of a panel: the one in view is the panel's title. -->
<nav class="flex flex-none items-baseline gap-2.5" aria-label={label}>
  {#each options as option (option)}
    {#if value === option}
      <h2 class="text-[15px] font-bold" aria-current="page" data-testid={titleTestId}>{title ?? names[option]}</h2>
    {:else}
      <button
        class="cursor-pointer text-[13px] text-soft underline-offset-4 hover:text-ink hover:underline"
        onclick={() => (value = option)}>{names[option]}</button
      >
    {/if}
  {/each}
</nav>
