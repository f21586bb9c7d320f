import { normalInverse } from '@umwelt/core';

/** A 32-bit hash of a text (FNV-1a, then a finalizer), so that a contract draws the same noise every day. */
export function hashOf(text: string): number {
  let h = 0x811c9dc5;
  for (let i = 0; i < text.length; i++) h = Math.imul(h ^ text.charCodeAt(i), 0x01000193);
  return mixed(h);
}

function mixed(bits: number): number {
  let h = bits;
  h = Math.imul(h ^ (h >>> 16), 0x85ebca6b);
  h = Math.imul(h ^ (h >>> 13), 0xc2b2ae35);
  return (h ^ (h >>> 16)) >>> 0;
}

/** A number in (0, 1) that belongs to a text. */
export function uniformOf(text: string): number {
  return (hashOf(text) + 0.5) / 4294967296;
}

/** A number in (0, 1) that belongs to a hash and two numbers: quicker than a text of them. */
export function uniformAt(hash: number, a: number, b: number): number {
  return (mixed(Math.imul(mixed(hash ^ Math.imul(a | 0, 0x9e3779b1)), 0x85ebca77) ^ (b | 0)) + 0.5) / 4294967296;
}

/** A seeded source of random numbers (mulberry32): the same seed, the same world. */
export class Random {
  private state: number;

  constructor(seed: string) {
    this.state = hashOf(seed);
  }

  /** Goes on as a source that belongs to a hash and two numbers. */
  restart(hash: number, a: number, b: number): void {
    this.state = Math.floor(uniformAt(hash, a, b) * 4294967296);
  }

  /** In (0, 1), both ends excluded. */
  uniform(): number {
    this.state = (this.state + 0x6d2b79f5) >>> 0;
    let t = this.state;
    t = Math.imul(t ^ (t >>> 15), t | 1);
    t ^= t + Math.imul(t ^ (t >>> 7), t | 61);
    return (((t ^ (t >>> 14)) >>> 0) + 0.5) / 4294967296;
  }

  /** Standard normal. */
  normal(): number {
    return normalInverse(this.uniform());
  }

  /** A whole number from 0 to n − 1. */
  below(n: number): number {
    return Math.floor(this.uniform() * n);
  }
}
