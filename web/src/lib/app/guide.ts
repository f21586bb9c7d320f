import { marked, type Tokens } from 'marked';
import text from '../../../../docs/guide.md?raw';

/** Pictures of the guide by the names that it calls them. */
const PICTURES = import.meta.glob<string>('../../../../docs/screenshots/*.png', {
  query: '?url',
  import: 'default',
  eager: true,
});

/**
 * The guide of the documentation as a page: its pictures are served with the application, and what leads to other pages of the
 * documentation is read there, not here.
 *
 * @returns HTML
 */
export function guide(): string {
  const renderer = new marked.Renderer();
  renderer.image = ({ href, text: words }: Tokens.Image) => {
    const url = Object.entries(PICTURES).find(([path]) => path.endsWith(`/${href}`))?.[1] ?? '';
    return `<img src="${url}" alt="${words}" loading="lazy" width="1280" height="800">`;
  };
  const { link } = renderer;
  renderer.link = function (token) {
    return token.href.endsWith('.md') ? `<i>docs/${token.href}</i>` : link.call(this, token);
  };
  return marked.parse(text, { renderer, async: false });
}
