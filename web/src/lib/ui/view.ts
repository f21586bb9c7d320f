import type { LucideIcon } from '@lucide/svelte';
import type { Component } from 'svelte';
import type { Params } from '$lib/address';

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
  /** A panel beside it, under the close-up. */
  readonly beside?: {
    /** @param of gives the values of parameters */
    readonly isWanted: (of: <T extends object>(params: Params<T>) => T) => boolean;
    readonly load: () => Promise<{ default: Component }>;
  };
  /** What of its state stands in the address. */
  readonly params?: Params<object>;
}
