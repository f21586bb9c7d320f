<script lang="ts">
  import { ColumnPicker } from '$lib/ui';
  import { useParams } from '$lib/state';
  import { KNOWN_COLUMNS, USUAL_COLUMNS, columnNamed } from '$lib/columns';
  import { MOST_COLUMNS, PARAMS } from './params';

  const params = useParams(PARAMS);
  /** Formulas that somebody has typed are known by themselves. */
  const known = $derived([
    ...KNOWN_COLUMNS,
    ...params.show.flatMap((key) => (KNOWN_COLUMNS.some((one) => one.key === key) ? [] : (columnNamed(key) ?? []))),
  ]);
</script>

<ColumnPicker
  shown={params.show}
  {known}
  most={MOST_COLUMNS}
  usual={USUAL_COLUMNS}
  none="No column says so. Any formula can be one: type it above the table."
  onchange={(keys) => (params.show = keys)}
/>
