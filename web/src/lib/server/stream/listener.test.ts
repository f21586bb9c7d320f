import { describe, expect, it } from 'vitest';
import { Listener } from './listener';

describe('who listens to the feed', () => {
  const text = async (reader: ReadableStreamDefaultReader<Uint8Array>) =>
    new TextDecoder().decode((await reader.read()).value);

  it('gets every message when it keeps up, and the newest of each kind when it does not', async () => {
    const listener = new Listener(['CAIR']);
    const reader = listener.stream(() => undefined).getReader();
    listener.say('prices', 'p1 ');
    expect(await text(reader)).toBe('p1 ');
    // One message is on its way; of those behind it only the newest of a kind is kept, however many there are.
    listener.say('prices', 'p2 ');
    for (let n = 0; n < 1000; n++) {
      listener.say('snapshot CAIR', `s${n} `);
      listener.say('prices', `p${n + 3} `);
    }
    expect(await text(reader)).toBe('p2 ');
    expect(await text(reader)).toBe('s999 p1002 ');
    listener.say('feed', 'f1 ');
    expect(await text(reader)).toBe('f1 ');
  });

  it('that has gone is said nothing, and leaves', async () => {
    let hasEnded = false;
    const listener = new Listener([]);
    const reader = listener.stream(() => (hasEnded = true)).getReader();
    await reader.cancel();
    expect(hasEnded).toBe(true);
    expect(() => listener.say('prices', 'p')).not.toThrow();
  });
});
