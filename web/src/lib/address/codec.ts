import type { Params } from './params';

type Group = Params<object>;

/** Characters that are as plain in an address as they are. */
const PLAIN: Readonly<Record<string, string>> = { '%3A': ':', '%2C': ',', '%3B': ';', '%40': '@', '%3D': '=' };

/** Reads and writes addresses: the query names the parameters of some groups that differ from their defaults. */
export class Codec {
  /** @throws RangeError where two parameters have the same name */
  constructor(readonly groups: readonly Group[]) {
    const seen = new Set<string>();
    for (const { name } of groups.flatMap(({ pieces }) => pieces)) {
      if (seen.has(name)) throw new RangeError(`two parameters of the address have the name ${name}`);
      seen.add(name);
    }
  }

  /**
   * Reads each group from a query; what it does not say, or says wrongly, takes its default. A query that says nothing is that of a
   * fresh start.
   */
  read(query: URLSearchParams): Map<Group, object> {
    const isFresh = query.size === 0;
    const symbol = query.get('symbol') || null;
    const valuesOf = ({ pieces, start }: Group) =>
      isFresh
        ? { ...start }
        : (Object.assign({}, ...pieces.map((one) => one.read(query.get(one.name), symbol))) as object);
    return new Map(this.groups.map((group) => [group, valuesOf(group)]));
  }

  /** Writes groups as a query, `?` included; defaults are left out. */
  write(valuesOf: (group: Group) => object): string {
    const query = new URLSearchParams();
    const all = this.groups.flatMap((group) => group.pieces.map((piece) => ({ piece, values: valuesOf(group) })));
    const named = all.find(({ piece }) => piece.name === 'symbol');
    const symbol = named ? named.piece.write(named.values, null) : null;
    for (const { piece, values } of all) {
      const text = piece.write(values, symbol);
      if (text !== null && text !== piece.write(piece.usual, symbol)) query.set(piece.name, text);
    }
    const differing = all.filter(({ piece }) => piece.fresh !== null);
    if ([...query.keys()].every((name) => differing.some(({ piece }) => piece.name === name))) {
      // Nothing else is said: a query that says nothing is that of a fresh start.
      const isFresh = differing.every(
        ({ piece, values }) => piece.write(values, symbol) === piece.write(piece.fresh!, symbol),
      );
      for (const { piece, values } of differing) {
        if (isFresh) query.delete(piece.name);
        else query.set(piece.name, piece.write(values, symbol) ?? '');
      }
    }
    const text = query.toString().replaceAll(/%(?:3A|2C|3B|40|3D)/g, (code) => PLAIN[code]!);
    return text ? `?${text}` : '';
  }
}
