import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { contractSymbol, parseContractSymbol } from './osi';

describe('contract symbols', () => {
  it('hold root, expiry, side and strike', () => {
    expect(parseContractSymbol('MRX40 310320C04200000')).toEqual({
      symbol: 'MRX40',
      expiry: '2031-03-20',
      side: 'call',
      strike: 4200,
    });
    expect(contractSymbol({ symbol: 'LMNQ', expiry: '2031-03-20', side: 'put', strike: 82.5 })).toBe(
      'LMNQ  310320P00082500',
    );
  });
  it('are refused where they are not of the form', () => {
    for (const text of [
      '',
      'MRX40 310320C0420000',
      'MRX40 310320X04200000',
      'MRX40 310230C04200000',
      'MRX40 310320C00000000',
      ' MRX40310320C04200000',
      'M X40 310320C04200000',
      'mrx40 310320C04200000',
    ]) {
      expect(parseContractSymbol(text), text).toBeNull();
    }
    expect(contractSymbol({ symbol: 'TOOLONG', expiry: '2031-03-20', side: 'put', strike: 1 })).toBeNull();
    expect(contractSymbol({ symbol: 'A', expiry: '2131-03-20', side: 'put', strike: 1 })).toBeNull();
    expect(contractSymbol({ symbol: 'A', expiry: '2031-03-20', side: 'put', strike: 1.00001 })).toBeNull();
    expect(contractSymbol({ symbol: 'A', expiry: '2031-03-20', side: 'put', strike: 100_000 })).toBeNull();
  });
  it('come back as they were written', () => {
    const terms = fc.record({
      symbol: fc.stringMatching(/^[A-Z0-9]{1,6}$/),
      expiry: fc
        .date({ min: new Date('2000-01-01'), max: new Date('2099-12-31'), noInvalidDate: true })
        .map((date) => date.toISOString().slice(0, 10)),
      side: fc.constantFrom('call' as const, 'put' as const),
      strike: fc.integer({ min: 1, max: 99_999_999 }).map((thousandths) => thousandths / 1000),
    });
    fc.assert(
      fc.property(terms, (contract) => {
        expect(parseContractSymbol(contractSymbol(contract)!)).toEqual(contract);
      }),
    );
  });
});
