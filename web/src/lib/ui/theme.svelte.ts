/** The colours that charts draw with, read from the theme in use. */
export interface Tokens {
  panel: string;
  band: string;
  line: string;
  ink: string;
  soft: string;
  faint: string;
  focus: string;
  implied: string;
  realized: string;
  gain: string;
  loss: string;
  depths: string[];
}

const DAY = 'umwelt-day';
const NIGHT = 'umwelt-night';
const STORED = 'umwelt-theme';

function readTokens(): Tokens {
  const style = getComputedStyle(document.documentElement);
  const token = (name: string) => style.getPropertyValue(`--${name}`).trim();
  return {
    panel: token('panel'),
    band: token('band'),
    line: token('line'),
    ink: token('ink'),
    soft: token('soft'),
    faint: token('faint'),
    focus: token('focus'),
    implied: token('implied'),
    realized: token('realized'),
    gain: token('gain'),
    loss: token('loss'),
    depths: Array.from({ length: 7 }, (_, i) => token(`depth-${i + 1}`)),
  };
}

class Theme {
  name = $state(document.documentElement.dataset.theme ?? DAY);
  tokens = $state.raw<Tokens>(readTokens());

  /** Worked out when asked: the theme outlives whatever asked for it first, and what is derived does not. */
  get isNight(): boolean {
    return this.name === NIGHT;
  }

  toggle(): void {
    this.name = this.isNight ? DAY : NIGHT;
    document.documentElement.dataset.theme = this.name;
    localStorage.setItem(STORED, this.name);
    this.tokens = readTokens();
  }
}

let theme: Theme | null = null;

/** The theme of the page. */
export function useTheme(): Theme {
  theme ??= new Theme();
  return theme;
}
