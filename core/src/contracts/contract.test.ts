import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { expiryAt, expiryName, isSameContract, parseExpiryName, SETTLEMENTS, type ContractId, type OptionId } from '.';

const expiries = fc.record({
  expiry: fc
    .date({ min: new Date('1990-01-01'), max: new Date('2099-12-31'), noInvalidDate: true })
    .map((date) => date.toISOString().slice(0, 10)),
  settlement: fc.constantFrom(...SETTLEMENTS),
});

describe('expiries', () => {
  const both = [
    { expiry: '2031-03-20', settlement: 'am' },
    { expiry: '2031-03-20', settlement: 'pm' },
    { expiry: '2031-06-19', settlement: 'am' },
  ] as const;
  it('are named by their day, and by am where they settle in the morning', () => {
    expect(both.map(expiryName)).toEqual(['2031-03-20am', '2031-03-20', '2031-06-19am']);
    for (const text of ['', '2031-03', '2031-03-20xm', '2031-03-20 am', '20am'])
      expect(parseExpiryName(text)).toBeNull();
  });
  it('are found by their name, whatever else ends on that day', () => {
    fc.assert(
      fc.property(fc.uniqueArray(expiries, { selector: expiryName, maxLength: 12 }), (all) => {
        all.forEach((one, i) => expect(expiryAt(all, parseExpiryName(expiryName(one))!)).toBe(i));
      }),
    );
  });
  it('of which it is not said how they settle are the pm series, or the only one of the day', () => {
    expect(expiryAt(both, { expiry: '2031-03-20', settlement: null })).toBe(1);
    expect(expiryAt(both, { expiry: '2031-06-19', settlement: null })).toBe(2);
    expect(expiryAt(both, { expiry: '2031-06-19', settlement: 'pm' })).toBe(-1);
    expect(expiryAt(both, { expiry: '2031-06-20', settlement: null })).toBe(-1);
  });
});

describe('contracts', () => {
  it('are the same where all that names them is', () => {
    const option: OptionId = { symbol: 'MRX40', expiry: '2031-03-20', settlement: 'pm', strike: 4200, side: 'call' };
    const others: ContractId[] = [
      { ...option, symbol: 'LMNQ' },
      { ...option, expiry: '2031-03-21' },
      { ...option, settlement: 'am' },
      { ...option, strike: 4300 },
      { ...option, side: 'put' },
      { symbol: 'MRX40', underlying: true },
    ];
    const all = [option, ...others];
    all.forEach((one, i) => all.forEach((other, k) => expect(isSameContract({ ...one }, other)).toBe(i === k)));
  });
});
