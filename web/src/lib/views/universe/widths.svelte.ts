import { SvelteMap } from 'svelte/reactivity';

const STORED = 'umwelt-widths';
const LEAST = 36;
const MOST = 480;

/** Widths of columns that somebody has drawn wider or narrower, kept in the browser. */
export class Widths {
  private readonly own = new SvelteMap<string, number>(read());

  /** The width of a column in pixels. */
  of(key: string, usual: number): number {
    return this.own.get(key) ?? usual;
  }

  /** Follows the pointer until it is released. */
  drag(event: PointerEvent, key: string, usual: number): void {
    event.preventDefault();
    const handle = event.currentTarget as HTMLElement;
    const [from, start] = [event.clientX, this.of(key, usual)];
    handle.setPointerCapture(event.pointerId);
    const follow = ({ clientX }: PointerEvent) => {
      this.own.set(key, Math.max(LEAST, Math.min(MOST, Math.round(start + clientX - from))));
    };
    handle.addEventListener('pointermove', follow);
    handle.addEventListener(
      'lostpointercapture',
      () => {
        handle.removeEventListener('pointermove', follow);
        this.keep();
      },
      { once: true },
    );
  }

  /** Gives a column its usual width back. */
  reset(key: string): void {
    this.own.delete(key);
    this.keep();
  }

  private keep(): void {
    localStorage.setItem(STORED, JSON.stringify([...this.own]));
  }
}

function read(): [string, number][] {
  try {
    const held: unknown = JSON.parse(localStorage.getItem(STORED) ?? '[]');
    return Array.isArray(held)
      ? held.filter(
          (one): one is [string, number] =>
            Array.isArray(one) && typeof one[0] === 'string' && one[1] >= LEAST && one[1] <= MOST,
        )
      : [];
  } catch {
    return [];
  }
}
