import { columnsOf, FILE_KINDS, LAYOUTS } from '$lib/layouts';

/** What each kind of file knows, for the matching of columns. */
export const load = () => ({
  layouts: Object.fromEntries(
    FILE_KINDS.map((kind) => {
      const { required } = LAYOUTS[kind];
      return [kind, { required, optional: columnsOf(kind).filter((name) => !required.includes(name)) }];
    }),
  ),
});
