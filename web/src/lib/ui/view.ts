import type { LucideIcon } from '@lucide/svelte';

/** A view as the application knows it without loading it. */
export interface View {
  /** Its path without the slash. */
  readonly name: string;
  readonly title: string;
  /** Pressed after g, it leads here. */
  readonly key: string;
  readonly icon: LucideIcon;
  /** What is shown of the contract in focus: the close-up beside the view, or that it is lit in it; else nothing. */
  readonly contract?: 'close-up' | 'lit';
}
