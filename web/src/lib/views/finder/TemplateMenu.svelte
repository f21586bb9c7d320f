<script lang="ts">
  import { Refusal } from '$lib/api/call';
  import { problemOf, useParams } from '$lib/state';
  import { KeptByName } from '$lib/ui';
  import { paramsOf, templateOf } from './asked';
  import { PARAMS } from './params';
  import {
    dropTemplate,
    keepTemplate,
    loadTemplates,
    SHIPPED_TEMPLATES,
    type KeptTemplate,
    type NamedTemplate,
  } from './templates';

  /** What is looked for, kept by name. */
  const params = useParams(PARAMS);

  let kept = $state.raw<KeptTemplate[]>([]);
  let problem = $state<string | null>(null);
  /** The one of the same name that there is already. */
  let other = $state.raw<KeptTemplate | null>(null);
  let gone = $state.raw<KeptTemplate | null>(null);

  async function attempt(work: Promise<KeptTemplate[]>): Promise<boolean> {
    try {
      kept = await work;
      problem = other = null;
      return true;
    } catch (error) {
      other = error instanceof Refusal && error.current ? (error.current as unknown as KeptTemplate) : null;
      problem = other ? `“${other.name}” is kept already` : problemOf(error);
      return false;
    }
  }
  $effect(() => {
    void attempt(loadTemplates());
  });

  /** What it comes to in the address, so that the same said otherwise is the same. */
  const mark = (asked: NamedTemplate['asked']) => {
    const all = { ...PARAMS.start, ...paramsOf(asked) };
    return PARAMS.pieces.map((piece) => piece.write(all, null)).join('&');
  };
  const inView = $derived(templateOf(params));
  const all = $derived<readonly NamedTemplate[]>([...kept, ...SHIPPED_TEMPLATES]);
  const current = $derived(all.find(({ asked }) => mark(asked) === mark(inView)) ?? null);
  const held = $derived(kept.find((one) => one === current) ?? null);
  const undone = $derived(gone as NamedTemplate | null);

  function choose(name: string): void {
    const found = all.find((one) => one.name === name);
    if (!found) return;
    // What stands in the place of a template that says nothing of it is usual.
    Object.assign(params, paramsOf(found.asked), { row: '', rowOrder: '' });
  }

  async function keep(name: string): Promise<boolean> {
    const isKept = await attempt(keepTemplate({ name, asked: inView }, other?.name === name ? other.version : null));
    if (isKept) gone = null;
    return isKept;
  }

  async function drop(template: KeptTemplate): Promise<void> {
    if (await attempt(dropTemplate(template.id))) gone = template;
  }
</script>

<div class="flex min-w-0 flex-wrap items-center gap-1.5 text-[12px]">
  <KeptByName
    label="Template"
    class="max-w-28"
    groups={[
      { title: 'kept', options: kept as readonly NamedTemplate[] },
      { title: 'with the application', options: SHIPPED_TEMPLATES },
    ]}
    {current}
    none="templates …"
    canKeep={!current}
    canDelete={held !== null}
    replaces={(name) => other?.name === name}
    gone={undone}
    onchoose={choose}
    onkeep={keep}
    ondelete={() => held && void drop(held)}
    onundo={() => gone && void attempt(keepTemplate(gone, null)).then((is) => is && (gone = null))}
  />
  {#if problem}<span class="text-loss" role="alert">{problem}</span>{/if}
</div>
