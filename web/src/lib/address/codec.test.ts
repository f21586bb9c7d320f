import { describe, expect, it } from 'vitest';
import { Codec } from './codec';
import { defineParams, flag, numberIn, oneOf, type Joint } from './params';

interface Room {
  colour: 'red' | 'blue';
  isOpen: boolean;
  width: number;
  height: number;
}
const size: Joint<Room> = {
  name: 'size',
  before: 'isOpen',
  usual: { width: 1, height: 2 },
  read: (text) => {
    const [width, height] = (text ?? '').split('x').map(Number);
    return width && height ? { width, height } : size.usual;
  },
  write: ({ width, height }) => `${width}x${height}`,
};
const ROOM = defineParams<Room, 'width' | 'height'>(
  { colour: { ...oneOf('colour', ['red', 'blue'], 'red'), fresh: 'blue' }, isOpen: flag('door', 'open') },
  { joint: [size], ofUnderlying: ['isOpen', 'width'] },
);
const DOOR = defineParams<{ wide: number }>({ wide: numberIn('wide', [0, 9], 3, true) });
const codec = new Codec([ROOM, DOOR]);
const room = (query: string) => codec.read(new URLSearchParams(query)).get(ROOM);
const write = (room: Room, wide = 3) => codec.write((group) => (group === ROOM ? room : { wide }));

describe('parameters in an address', () => {
  it('what is not said is as usual; where nothing is, as at a fresh start', () => {
    expect(room('')).toEqual({ colour: 'blue', isOpen: false, width: 1, height: 2 });
    expect(room('wide=4')).toEqual({ colour: 'red', isOpen: false, width: 1, height: 2 });
    expect(codec.read(new URLSearchParams('wide=40')).get(DOOR)).toEqual({ wide: 3 });
  });
  it('are written in their order, values that stand together as one', () => {
    expect(write({ colour: 'blue', isOpen: true, width: 3, height: 4 }, 5)).toBe(
      '?colour=blue&size=3x4&door=open&wide=5',
    );
    expect(write({ ...ROOM.start })).toBe('');
    expect(write({ ...ROOM.start, colour: 'red' })).toBe('?colour=red');
  });
  it('know what goes with the underlying', () => {
    expect(ROOM.anew).toEqual({ isOpen: false, width: 1 });
    expect(DOOR.anew).toEqual({});
  });
  it('of two views cannot have the same name', () => {
    const other = defineParams<{ size: number }>({ size: numberIn('size', [0, 9], 3) });
    expect(() => new Codec([ROOM, other])).toThrow('two parameters of the address have the name size');
  });
});
