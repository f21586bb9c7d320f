import { untrack } from 'svelte';
import { CONTEXT, type Codec, type Context, type Params } from '$lib/address';

/** The page's state as far as it stands in its address: the context of all views, and the parameters of each. */
export class Address {
  private readonly held = new WeakMap<Params<object>, object>();
  readonly context: Context;
  readonly query: string = $derived.by(() => this.codec.write((params) => this.of(params)));

  /** @param codec of the context and of the parameters of all views */
  constructor(private readonly codec: Codec) {
    for (const params of codec.groups) {
      const values = $state({ ...params.start });
      this.held.set(params, values);
    }
    this.context = this.of(CONTEXT);
  }

  /** Values of parameters, which can be set. @throws RangeError where the codec does not know them */
  of<T extends object>(params: Params<T>): T {
    const values = this.held.get(params as Params<object>);
    if (!values)
      throw new RangeError('these parameters do not stand in the address: their view is not in the registry');
    return values as T;
  }

  /** Applies a query, unless it is what is shown. An underlying that it does not name is kept. */
  take(query: URLSearchParams): void {
    untrack(() => {
      const read = this.codec.read(query);
      if (this.codec.write((params) => read.get(params)!) === this.query) return;
      const { symbol } = this.context;
      for (const [params, values] of read) Object.assign(this.of(params), values);
      this.context.symbol ??= symbol;
    });
  }

  /** Opens another underlying: legs picked on the old one are dropped. */
  choose(symbol: string): void {
    if (symbol === this.context.symbol) return;
    for (const params of this.codec.groups) Object.assign(this.of(params), params.anew);
    this.context.symbol = symbol;
  }
}
