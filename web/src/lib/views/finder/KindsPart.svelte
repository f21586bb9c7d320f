<script lang="ts">
  import { FINDER_KINDS, type FinderKind } from '@umwelt/core';
  import { useParams } from '$lib/state';
  import { KIND_PICTURES, KIND_SHORT, KIND_WORDS } from './measures';
  import { PARAMS } from './params';

  /** Kinds of structures, as pictures of what they pay. */
  const params = useParams(PARAMS);
  const isOn = (kind: FinderKind) => params.sought.includes(kind);

  function toggle(kind: FinderKind): void {
    const next = FINDER_KINDS.filter((one) => (one === kind ? !isOn(kind) : isOn(one)));
    // One at least is looked for.
    if (next.length > 0) params.sought = next;
  }
</script>

<div class="grid grid-cols-4 gap-1" role="group" aria-label="Kinds">
  {#each FINDER_KINDS as kind (kind)}
    <button
      class="flex cursor-pointer flex-col items-center rounded-[5px] border px-0.5 pt-1 pb-0.5 text-[10px] leading-[1.15] {isOn(
        kind,
      )
        ? 'border-ink bg-band text-ink'
        : 'border-line text-soft hover:border-soft'}"
      aria-pressed={isOn(kind)}
      title={KIND_WORDS[kind]}
      onclick={() => toggle(kind)}
    >
      <svg viewBox="0 0 40 18" width="40" height="18" aria-hidden="true">
        <line x1="0" x2="40" y1="9.5" y2="9.5" stroke="var(--line)" />
        <polyline
          points={KIND_PICTURES[kind]}
          fill="none"
          stroke="currentColor"
          stroke-width={isOn(kind) ? 1.8 : 1.2}
        />
      </svg>
      <span class="w-full truncate text-center">{KIND_SHORT[kind] ?? KIND_WORDS[kind]}</span>
    </button>
  {/each}
</div>
