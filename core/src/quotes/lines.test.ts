import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import type { QuoteColumn } from './columns';
import { QuoteLines } from './lines';

const COLUMNS: (QuoteColumn | null)[] = [
  'asof',
  'symbol',
  'expiry',
  'strike',
  'side',
  null,
  'bid',
  'ask',
  'underlying_price',
];
const bytes = (text: string) => new TextEncoder().encode(text);
const LINE = '2031-03-13T15:45-01:00,MRX40,2031-03-20,4200,C,note,12.5,13.05,4208.15\n';

function read(text: string, capacity = 16) {
  const lines = new QuoteLines(COLUMNS, 2, capacity);
  const data = bytes(text);
  return { lines, stop: lines.read(data, 0, data.length) };
}

describe('quote lines', () => {
  it('come as columns, texts by number', () => {
    const { lines, stop } = read(
      `${LINE}\r\n${LINE.replace(',C,', ',put,').replace('12.5', '').replace('\n', '\r\n')}`,
    );
    expect(stop).toBe('end');
    const { block, texts } = lines;
    expect(block.count).toBe(2);
    expect([...block.row.slice(0, 2)]).toEqual([2, 4]);
    expect([...block.sign.slice(0, 2)]).toEqual([1, -1]);
    expect([...block.number.bid.slice(0, 2)]).toEqual([12.5, NaN]);
    expect([...block.number.ask.slice(0, 2)]).toEqual([13.05, 13.05]);
    expect(block.number.volume[0]).toBeNaN();
    expect([...block.text.symbol.slice(0, 2)].map((id) => texts.symbol.list[id])).toEqual(['MRX40', 'MRX40']);
    expect(texts.asof.list[block.text.asof[1]!]).toBe('2031-03-13T15:45-01:00');
    expect(lines.row).toBe(5);
  });
  it('stop at a line that is not plain, where it begins', () => {
    const odd = [
      LINE.replace('4200', '-4200'),
      LINE.replace('4200', ''),
      LINE.replace('4200', '0'),
      LINE.replace('4200', '42e2'),
      LINE.replace('4200', '4.2.0'),
      LINE.replace('4200', '.'),
      LINE.replace('4200', ' 4200'),
      LINE.replace('4200', '1234567890123456'),
      LINE.replace(',C,', ',X,'),
      LINE.replace(',C,', ',,'),
      LINE.replace(',C,', ',cull,'),
      LINE.replace('MRX40', ''),
      LINE.replace('MRX40', '"MRX40"'),
      LINE.replace('MRX40', 'MÉX40'),
      LINE.replace('note', '"a,b"'),
      LINE.replace('note', 'é'),
      LINE.replace('4208.15', '0'),
      LINE.replace('4208.15', '4208.15,'),
      LINE.replace(',4208.15', ''),
      ' \n',
    ];
    for (const line of odd) {
      const { lines, stop } = read(LINE + line + LINE);
      expect([stop, lines.block.count, lines.position, lines.row], line).toEqual(['odd', 1, LINE.length, 3]);
    }
  });
  it('wait for the end of a line, wherever it is cut', () => {
    const text = LINE + LINE.replace('MRX40', 'MRX4').replace('13.05', '13.1');
    for (let cut = 0; cut <= text.length; cut++) {
      const lines = new QuoteLines(COLUMNS, 2);
      const first = bytes(text.slice(0, cut));
      expect(lines.read(first, 0, first.length), `cut at ${cut}`).toBe('end');
      const rest = bytes(text.slice(lines.position));
      expect(lines.read(rest, 0, rest.length)).toBe('end');
      expect(lines.block.count).toBe(2);
      expect([...lines.block.text.symbol.slice(0, 2)].map((id) => lines.texts.symbol.list[id])).toEqual([
        'MRX40',
        'MRX4',
      ]);
    }
  });
  it('stop when the block is full, and go on where they stopped', () => {
    const { lines, stop } = read(LINE.repeat(5), 2);
    expect([stop, lines.position, lines.row]).toEqual(['full', 2 * LINE.length, 4]);
    lines.block.count = 0;
    const data = bytes(LINE.repeat(5));
    expect(lines.read(data, lines.position, data.length)).toBe('full');
    expect([...lines.block.row]).toEqual([4, 5]);
  });
  it('are told from the line above, whatever they share with it', () => {
    const symbol = fc.stringMatching(/^[A-Z0-9]{1,9}$/);
    fc.assert(
      fc.property(fc.array(symbol, { maxLength: 12 }), (symbols) => {
        const { lines } = read(symbols.map((name) => LINE.replace('MRX40', name)).join(''));
        const back = [...lines.block.text.symbol.slice(0, symbols.length)].map((id) => lines.texts.symbol.list[id]);
        expect(back).toEqual(symbols);
      }),
    );
  });
  it('read numbers to the last bit', () => {
    const number = fc
      .tuple(fc.integer({ min: 0, max: 15 }), fc.nat({ max: 999_999_999 }), fc.nat({ max: 999_999 }))
      .map(([places, high, low]) => {
        const digits = `${high}${String(low).padStart(6, '0')}`.slice(0, 15);
        const point = Math.max(0, digits.length - places);
        return places === 0 ? digits : `${digits.slice(0, point)}.${digits.slice(point)}`;
      });
    fc.assert(
      fc.property(number, (text) => {
        const { lines, stop } = read(LINE.replace('12.5', text));
        expect(stop).toBe('end');
        expect(lines.block.number.bid[0]).toBe(Number(text));
      }),
    );
  });
});
