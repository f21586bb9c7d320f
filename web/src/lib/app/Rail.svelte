<script lang="ts">
  import Moon from '@lucide/svelte/icons/moon';
  import Sun from '@lucide/svelte/icons/sun';
  import { page } from '$app/state';
  import { useTheme, useWorkbench } from '$lib/state';
  import { VIEWS } from './views';

  const bench = useWorkbench();
  const theme = useTheme();
</script>

<nav class="flex w-16 flex-none flex-col items-center gap-1 bg-rail py-2 text-rail-ink" aria-label="Views">
  <svg viewBox="0 0 32 32" class="mb-2 size-8" aria-hidden="true">
    <g fill="none" stroke-width="2.6" stroke-linecap="round">
      <path d="M5 12c0 15 22 15 22 0" stroke="var(--rail-cool)" />
      <path d="M9.5 12c0 9 13 9 13 0" stroke="var(--rail-warm)" />
    </g>
    <circle cx="16" cy="11.5" r="2.4" fill="var(--rail-hot)" />
  </svg>
  {#each VIEWS as { name, title, key, icon: Icon } (name)}
    {@const isHere = page.url.pathname.startsWith(`/${name}`)}
    <a
      href="/{name}{bench.address.query}"
      title="{title} (g {key})"
      aria-current={isHere ? 'page' : undefined}
      class="flex w-[58px] flex-col items-center gap-0.5 rounded-md border-l-[3px] py-1.5 text-[11px] hover:bg-rail-ink/10
        {isHere ? 'border-rail-warm bg-rail-ink/15 font-semibold' : 'border-transparent'}"
    >
      <Icon size={18} strokeWidth={1.8} />{title}
    </a>
  {/each}
  <button
    class="mt-auto flex w-[58px] cursor-pointer flex-col items-center gap-0.5 rounded-md py-1.5 text-[11px] hover:bg-rail-ink/10"
    title="Light or dark (t)"
    onclick={() => theme.toggle()}
  >
    {#if theme.isNight}<Sun size={18} strokeWidth={1.8} />Day{:else}<Moon size={18} strokeWidth={1.8} />Night{/if}
  </button>
</nav>
