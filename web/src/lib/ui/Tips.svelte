<script lang="ts">
  import { Tooltip } from 'bits-ui';

  /**
   * The one tip of the page: whatever has a `title` shows it here, soon and in our look, when it is pointed at and, of a
   * control, when it is reached by keys. The browser's own tip would come late, and never for keys.
   */
  let text = $state('');
  let isOpen = $state(false);
  /** Where it stands: at the pointer, along what it explains. */
  let place = $state.raw(new DOMRect());

  /** Idle time of the pointer before a tip, in milliseconds, and how long the next one comes at once. */
  const DELAY = 350;
  const AT_ONCE = 300;

  /** What is explained; its title is taken away meanwhile, so that the browser shows none. */
  let explained: HTMLElement | null = null;
  /** The attribute that says its title meanwhile to whoever does not see the tip. */
  let spoken: 'aria-label' | 'aria-description' = 'aria-description';
  let timer: ReturnType<typeof setTimeout> | undefined;
  let closedAt = -Infinity;
  // A title may change while it is shown, as numbers do.
  const changes = new MutationObserver(() => explained?.title && take(explained));

  function take(element: HTMLElement): void {
    text = element.title;
    element.removeAttribute('title');
    element.setAttribute(spoken, text);
  }

  function leave(): void {
    clearTimeout(timer);
    if (isOpen) closedAt = performance.now();
    isOpen = false;
    if (!explained) return;
    changes.disconnect();
    explained.removeAttribute(spoken);
    if (!explained.title) explained.title = text;
    explained = null;
  }

  function explain(element: HTMLElement, x: number | null): void {
    leave();
    explained = element;
    const isNamed = element.hasAttribute('aria-label') || element.innerText.trim() !== '';
    spoken = isNamed || element.hasAttribute('aria-labelledby') ? 'aria-description' : 'aria-label';
    take(element);
    changes.observe(element, { attributeFilter: ['title'] });
    const { left, top, width, height } = element.getBoundingClientRect();
    place = x === null ? new DOMRect(left, top, width, height) : new DOMRect(x, top, 0, height);
    timer = setTimeout(() => (isOpen = true), performance.now() - closedAt < AT_ONCE ? 0 : DELAY);
  }

  function onpointerover({ target, clientX, pointerType }: PointerEvent): void {
    if (pointerType === 'touch' || !(target instanceof Element)) return;
    if (explained?.contains(target) && !target.closest('[title]')) return;
    const element = target.closest<HTMLElement>('[title]');
    if (element instanceof HTMLElement && element.title) explain(element, clientX);
    else leave();
  }

  function onfocusin({ target }: FocusEvent): void {
    if (!(target instanceof HTMLElement) || !target.title || !target.matches(':focus-visible')) return;
    if (target.matches('button, a, input, select, textarea')) explain(target, null);
  }

  $effect(() => leave);
</script>

<svelte:document
  {onpointerover}
  {onfocusin}
  onfocusout={leave}
  onpointerdown={leave}
  onpointerleave={leave}
  onkeydown={leave}
  onscrollcapture={leave}
/>

<Tooltip.Provider>
  <Tooltip.Root bind:open={isOpen} disableHoverableContent>
    <Tooltip.Portal>
      <Tooltip.Content
        sideOffset={4}
        customAnchor={{ getBoundingClientRect: () => place }}
        class="pointer-events-none z-50 max-w-72 rounded border border-line bg-ink px-2 py-1 text-[11.5px] text-panel"
      >
        {text}
      </Tooltip.Content>
    </Tooltip.Portal>
  </Tooltip.Root>
</Tooltip.Provider>
