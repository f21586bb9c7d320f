import { describe, expect, it } from 'vitest';
import { keptText, readKept } from './files';
import { gainOf, nameOf, type KeptStructure } from './structures';
import { keptWork } from './work';

describe('a structure', () => {
  it('that is kept gains by its mids, for all of them', () => {
    const row = {
      quantity: -3,
      mid: 2,
      now: { missing: null, mid: 2.5, multiplier: 100 },
    } as unknown as KeptStructure;
    expect(gainOf(row)).toBe(-150);
    expect(gainOf({ ...row, now: null })).toBeNaN();
    const work = keptWork(row, 'a spread', 'gain');
    expect(work.lines.find(({ key }) => key === 'gain')!.tex).toBe('(2.5 - 2)\\cdot(-3)\\cdot100 = -150');
    expect(keptWork({ ...row, now: null }, 'a spread', 'gain').lines).toEqual([]);
  });
});

describe('files of structures', () => {
  const leg = { expiry: '2031-04-17', settlement: 'pm', strike: 4300, side: 'call', quantity: 1 } as const;
  const rows = [
    {
      ...{ symbol: 'MRX40', name: 'wide, “quoted”', tags: ['income', 'april'], quantity: 2, note: '=1+1', held: 0 },
      legs: [leg, { ...leg, strike: 4400, quantity: -1, settlement: 'am' }],
    },
    { symbol: 'KELQ', name: '', tags: [], quantity: 1, note: '', held: -40, legs: [{ ...leg, strike: 62.5 }] },
    {
      ...{ symbol: 'AQFM31', name: 'over the summer', tags: [], quantity: 1, note: '', held: 0 },
      legs: [leg, { ...leg, symbol: 'AQFU31', quantity: -1 }],
    },
  ] as unknown as KeptStructure[];
  it('come back as they were written, in both formats', async () => {
    for (const format of ['csv', 'json'] as const) {
      expect(await readKept(await keptText(rows, format), `kept.${format}`)).toEqual(
        rows.map(({ legs, ...row }) => ({ ...row, legs: legs.map((one) => ({ ...one })) })),
      );
    }
  });
  it('written by hand need neither numbers nor what is usual', async () => {
    const text = 'symbol,expiry,strike,side,leg_quantity\nCAIR,2031-04-17,100,Call,1\n\nCAIR,2031-04-17,110,call,-1\n';
    expect(await readKept(text, 'mine.CSV')).toEqual([
      {
        ...{ symbol: 'CAIR', name: '', note: '', quantity: 1, held: 0, tags: [] },
        legs: [
          { expiry: '2031-04-17', strike: 100, side: 'call', quantity: 1 },
          { expiry: '2031-04-17', strike: 110, side: 'call', quantity: -1 },
        ],
      },
    ]);
  });
  it('say where they make no sense', async () => {
    const head = 'structure,symbol,expiry,strike,side,leg_quantity\n1,CAIR,2031-04-17,100,call,1\n';
    for (const [line, says] of [
      ['1,CAIR,2031-04-17,many,call,1', 'row 3: “many” is no strike'],
      ['1,CAIR,2031-04-17,100,both,1', 'row 3: “both” is neither call nor put nor underlying'],
      ['1,KELQ,2031-04-17,100,call,1', 'row 3: a leg on KELQ in a structure on CAIR'],
      ['1,CAIR,2031-04-17,100,call,', 'row 3: “” is no leg quantity'],
    ] as const)
      await expect(readKept(head + line, 'x.csv')).rejects.toThrow(says);
    await expect(readKept('a,b\n1,2\n', 'x.csv')).rejects.toThrow('no column symbol');
    await expect(readKept('{', 'x.json')).rejects.toThrow('no JSON');
    await expect(readKept('[]', 'x.json')).rejects.toThrow('no list');
  });
  it('what is called nothing goes by its legs', () => {
    expect(nameOf(rows[0]!)).toBe('wide, “quoted”');
    expect(nameOf(rows[1]!)).toContain('call');
  });
});
