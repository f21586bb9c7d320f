import { flushSync } from 'svelte';
import { describe, expect, it } from 'vitest';
import { Codec, CONTEXT, type Params } from '$lib/address';
import { defineParams, flag, numberIn } from '$lib/address/params';
import { Address } from './address.svelte';

const ROOM = defineParams<{ wide: number; isOpen: boolean }>(
  { wide: numberIn('wide', [0, 9], 3, true), isOpen: flag('door', 'open') },
  { ofUnderlying: ['wide'] },
);

function made(): { address: Address; end: () => void } {
  let address!: Address;
  const end = $effect.root(() => {
    address = new Address(new Codec([CONTEXT as Params<object>, ROOM as Params<object>]));
  });
  return { address, end };
}

describe('the state that stands in the address', () => {
  it('follows what is set, and what is set stays the same object', () => {
    const { address, end } = made();
    const room = address.of(ROOM);
    expect(address.query).toBe('');
    room.wide = 5;
    address.context.basis = 'level';
    expect(address.query).toBe('?basis=level&wide=5');
    address.take(new URLSearchParams('symbol=CAIR&door=open'));
    flushSync();
    expect(address.of(ROOM)).toBe(room);
    expect(room).toEqual({ wide: 3, isOpen: true });
    expect(address.context.symbol).toBe('CAIR');
    end();
  });
  it('keeps its underlying where a query names none', () => {
    const { address, end } = made();
    address.take(new URLSearchParams('symbol=CAIR&wide=4'));
    address.take(new URLSearchParams('wide=6'));
    expect(address.query).toBe('?symbol=CAIR&wide=6');
    end();
  });
  it('drops what was picked of one underlying when another is chosen, and nothing else', () => {
    const { address, end } = made();
    const query =
      'symbol=CAIR&basis=level&expiry=2031-04-17am&strike=110&side=put&legs=1c110@2031-04-17&wide=4&door=open';
    address.take(new URLSearchParams(query));
    address.choose('CAIR');
    expect(address.query).toBe(`?${query}`);
    address.choose('MERI');
    expect(address.query).toBe('?symbol=MERI&basis=level&door=open');
    end();
  });
  it('refuses parameters that nobody registered', () => {
    const { address, end } = made();
    const other = defineParams<{ other: boolean }>({ other: flag('other', 'on') });
    expect(() => address.of(other)).toThrow('not in the registry');
    end();
  });
});
