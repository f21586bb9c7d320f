/** Whether something has been said yet: what shows notices is loaded then, since the first page does without. */
export const notices = $state({ areWanted: false });

/** Says that something has been done, for a moment, without being in the way. */
export function notify(words: string): void {
  notices.areWanted = true;
  void import('svelte-sonner').then(({ toast }) => toast(words));
}
