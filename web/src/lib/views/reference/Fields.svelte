<script lang="ts">
  import { linesOf, typeWords, type Document, type Schema } from './document';

  let { title, schema, document }: { title: string; schema: Schema; document: Document } = $props();
  const lines = $derived(linesOf(schema, document));
</script>

<details class="border-t border-line py-1.5">
  <summary class="cursor-pointer text-[13px] font-semibold"
    >{title} <span class="figures text-[12px] font-normal text-soft">{typeWords(schema, document)}</span></summary
  >
  <table class="mt-1 w-full border-collapse text-[12.5px]">
    <thead class="sr-only"><tr><th>field</th><th>type</th><th>meaning</th></tr></thead>
    <tbody>
      {#each lines as { key, depth, name, type, isOptional, words } (key)}
        <tr class="border-b border-line align-top last:border-0">
          <th class="figures w-[230px] py-0.5 text-left font-semibold" style="padding-left: {14 * depth}px"
            >{name}{isOptional ? '?' : ''}</th
          >
          <td class="figures w-[220px] py-0.5 pr-2 text-[12px] text-implied">{type}</td>
          <td class="py-0.5 text-soft">{words}</td>
        </tr>
      {/each}
    </tbody>
  </table>
</details>
