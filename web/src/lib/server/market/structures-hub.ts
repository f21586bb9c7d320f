import type { Database } from '../db';
import { Hub, message, type Listener } from '../stream';
import { listStructures, structuresMark } from './structures';

/** So often they are valued though nothing is known to have changed: curves are fitted again without a new snapshot. */
const AGAIN_MS = 15_000;

/** What is told of a moment; null is the latest. */
interface Told {
  mark: string;
  text: string;
  at: number;
}

/** Tells who listens what all kept structures are worth at a moment, whenever that changes; null is the latest. */
export class StructuresHub extends Hub<string | null> {
  private readonly told = new Map<string | null, Told>();

  constructor(private readonly database: Database) {
    super('kept structures');
  }

  protected async tell(listeners: readonly Listener<string | null>[]): Promise<boolean> {
    const moments = new Set(listeners.map(({ topic }) => topic));
    for (const asof of this.told.keys()) if (!moments.has(asof)) this.told.delete(asof);
    if (moments.size === 0) return false;
    const mark = await structuresMark(this.database);
    let hasSaid = false;
    for (const asof of moments) {
      const before = this.told.get(asof);
      const now = performance.now();
      const isOld = before?.mark !== mark || now - before.at > AGAIN_MS;
      const told = isOld ? { mark, at: now, text: await this.textAt(asof) } : before;
      this.told.set(asof, told);
      for (const listener of listeners) {
        if (listener.topic !== asof || (!listener.isNew && told.text === before?.text)) continue;
        listener.say('structures', told.text);
        listener.isNew = false;
        hasSaid = true;
      }
    }
    return hasSaid;
  }

  private async textAt(asof: string | null): Promise<string> {
    const structures = await listStructures(this.database, asof === null ? undefined : new Date(asof));
    return message('structures', { structures });
  }
}
