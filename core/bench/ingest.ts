/**
 * A chain file of a million rows from its bytes into columns, and the implied vol of every mid: one JSON line
 * with the number and the sum of the vols by reason. `node --import tsx core/bench/ingest.ts FILE`
 */
import { openSync, readSync } from 'node:fs';
import { impliedVols, QuoteLines, type QuoteColumn } from '../src';

const PASSES = 7;
const RATE = 0.04;
const CHUNK = 1 << 20;
const MINUTES_PER_YEAR = 525_600;
/** Expiries settle at 21:00 UTC here. */
const CLOSE = 21 * 60;

const SOLVED = 0;
const ZERO_BID = 1;
const CROSSED = 2;
const BELOW = 3;
const ABOVE = 4;
const EXPIRED = 5;

const path = process.argv[2];
if (!path) throw new Error('usage: ingest.ts FILE');

interface Result {
  rows: number;
  odd: number;
  counts: number[];
  sum: number;
}

/** Works on the rows of a block; keeps nothing of it. */
class Solver {
  readonly counts = [0, 0, 0, 0, 0, 0];
  sum = 0;
  rows = 0;
  private readonly forward: Float64Array;
  private readonly years: Float64Array;
  private readonly price: Float64Array;
  private readonly sign: Float64Array;
  private readonly vol: Float64Array;
  private readonly asofMinutes: number[] = [];
  private readonly expiryMinutes: number[] = [];

  constructor(private readonly lines: QuoteLines) {
    const column = () => new Float64Array(lines.block.capacity);
    [this.forward, this.years, this.price, this.sign, this.vol] = [column(), column(), column(), column(), column()];
  }

  take(): void {
    const { lines, forward, years, price, sign, vol, asofMinutes, expiryMinutes, counts } = this;
    const { block, texts } = lines;
    const { bid, ask, strike, underlying_price: spot } = block.number;
    const { asof, expiry } = block.text;
    while (asofMinutes.length < texts.asof.list.length) {
      asofMinutes.push(Date.parse(texts.asof.list[asofMinutes.length]!) / 60_000);
    }
    while (expiryMinutes.length < texts.expiry.list.length) {
      expiryMinutes.push(Date.parse(texts.expiry.list[expiryMinutes.length]!) / 60_000 + CLOSE);
    }
    let asofId = -1;
    let expiryId = -1;
    let t = 0;
    let growth = 1;
    for (let i = 0; i < block.count; i++) {
      if (asof[i] !== asofId || expiry[i] !== expiryId) {
        asofId = asof[i]!;
        expiryId = expiry[i]!;
        t = (expiryMinutes[expiryId]! - asofMinutes[asofId]!) / MINUTES_PER_YEAR;
        growth = Math.exp(RATE * t);
      }
      years[i] = t;
      forward[i] = spot[i]! * growth;
      price[i] = 0.5 * (bid[i]! + ask[i]!) * growth;
      sign[i] = block.sign[i]!;
    }
    impliedVols(forward, strike, years, price, sign, vol, block.count);
    for (let i = 0; i < block.count; i++) {
      let reason = SOLVED;
      if (!(years[i]! > 0)) reason = EXPIRED;
      else if (!(bid[i]! > 0)) reason = ZERO_BID;
      else if (ask[i]! < bid[i]!) reason = CROSSED;
      else {
        const lo = Math.min(forward[i]!, strike[i]!);
        const inner = sign[i]! * (forward[i]! - strike[i]!);
        const otm = inner > 0 ? price[i]! - inner : price[i]!;
        if (!(otm > 0)) reason = BELOW;
        else if (!(otm < lo)) reason = ABOVE;
        else this.sum += vol[i]!;
      }
      counts[reason]!++;
    }
    this.rows += block.count;
    block.count = 0;
  }
}

function pass(): Result {
  const file = openSync(path!, 'r');
  const buffer = Buffer.alloc(2 * CHUNK);
  let held = readSync(file, buffer, 0, CHUNK, null);
  const headerEnd = buffer.indexOf(10);
  const columns = buffer.toString('utf8', 0, headerEnd).split(',') as QuoteColumn[];
  const lines = new QuoteLines(columns, 2);
  const solver = new Solver(lines);
  let odd = 0;
  let from = headerEnd + 1;
  for (;;) {
    const stop = lines.read(buffer, from, held);
    from = lines.position;
    if (stop === 'full') solver.take();
    else if (stop === 'odd') {
      odd++;
      from = buffer.indexOf(10, from) + 1;
      lines.row++;
    } else {
      buffer.copyWithin(0, from, held);
      held -= from;
      from = 0;
      const more = readSync(file, buffer, held, CHUNK, null);
      if (more === 0) break;
      held += more;
    }
  }
  solver.take();
  return { rows: solver.rows, odd, counts: solver.counts, sum: solver.sum };
}

let best = Infinity;
let result: Result | null = null;
for (let i = 0; i < PASSES; i++) {
  const started = performance.now();
  result = pass();
  best = Math.min(best, (performance.now() - started) / 1000);
}
const [solved, zeroBid, crossed, belowIntrinsic, aboveMaximum, expired] = result!.counts;
console.log(
  JSON.stringify({
    name: 'ingest_ts',
    items: result!.rows,
    seconds: Number(best.toFixed(4)),
    itemsPerSecond: Math.round(result!.rows / best),
    bad: result!.odd,
    solved,
    zeroBid,
    crossed,
    belowIntrinsic,
    aboveMaximum,
    expired,
    sumOfVols: result!.sum,
  }),
);
