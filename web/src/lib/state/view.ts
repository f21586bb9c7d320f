import type { LucideIcon } from '@lucide/svelte';
import type { Component } from 'svelte';
import type { Params } from '$lib/address';
import type { Workbench } from './workbench.svelte';

/** Something that can be done by its name. */
export interface Command {
  /** Identifies it among all, and across visits. */
  readonly id: string;
  /** What kind of thing it is, in a word or two. */
  readonly kind: string;
  readonly label: string;
  /** What is said beside it. */
  readonly hint?: string;
  /** Keys that do the same. */
  readonly keys?: readonly string[];
  /** Further words that it is found by. */
  readonly also?: string;
  readonly run: () => void;
}

/** What a view gives to the command palette; asked for when that is opened. */
export interface ViewCommands {
  /** @param open goes to a view */
  readonly commandsOf: (bench: Workbench, open: (view: string) => void) => Promise<Command[]>;
}

/** What a view lets be done from every view. */
export interface ViewAction {
  readonly what: string;
  readonly key: string;
  readonly run: (bench: Workbench) => void;
}

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
    readonly isWanted: (bench: Workbench) => boolean;
    readonly load: () => Promise<{ default: Component }>;
  };
  /** What of its state stands in the address. */
  readonly params?: Params<object>;
  readonly commands?: () => Promise<ViewCommands>;
  readonly actions?: readonly ViewAction[];
}
