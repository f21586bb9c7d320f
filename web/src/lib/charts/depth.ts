import type { Tokens } from '$lib/ui/theme.svelte';

const SHALLOWEST_DAYS = 5;
const DEEPEST_DAYS = 365;

/** Red, green and blue of a colour written as #rrggbb. */
export function channels(hex: string): [number, number, number] {
  const value = parseInt(hex.slice(1), 16);
  return [(value >> 16) & 255, (value >> 8) & 255, value & 255];
}

/** The colour between two others, as #rrggbb. */
export function betweenColors(a: string, b: string, share: number): string {
  const [from, to] = [channels(a), channels(b)];
  const mixed = from.map((channel, i) => Math.round(channel + share * (to[i]! - channel)));
  return `#${mixed.map((channel) => channel.toString(16).padStart(2, '0')).join('')}`;
}

/** The colour of an expiry: near is shallow and warm, far is deep, by the logarithm of its days. */
export function depthColor(days: number, tokens: Pick<Tokens, 'depths'>): string {
  const span = Math.log(DEEPEST_DAYS / SHALLOWEST_DAYS);
  const share = Math.log(Math.max(days, 0.01) / SHALLOWEST_DAYS) / span;
  const position = Math.max(0, Math.min(1, share)) * (tokens.depths.length - 1);
  const at = Math.min(Math.floor(position), tokens.depths.length - 2);
  return betweenColors(tokens.depths[at]!, tokens.depths[at + 1]!, position - at);
}
