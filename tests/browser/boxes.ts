/**
 * What the boxes of a page say is wrong with it: texts cut, texts or controls on one another, anything beyond the window's edge.
 * Looks only at what can be seen: what a popover covers, or a scrolled list has scrolled away, is not compared.
 */
import type { Page } from '@playwright/test';

export function crowding(page: Page): Promise<string[]> {
  return page.evaluate(() => {
    interface Box {
      left: number;
      top: number;
      right: number;
      bottom: number;
    }
    /** Half a pixel of rounding at each side. */
    const NEAR = 1;
    /** Characters that no row has room for. */
    const LONG = 21;
    const faults = new Set<string>();
    const meet = (a: Box, b: Box): Box => ({
      left: Math.max(a.left, b.left),
      top: Math.max(a.top, b.top),
      right: Math.min(a.right, b.right),
      bottom: Math.min(a.bottom, b.bottom),
    });
    const empty = (a: Box) => a.right - a.left <= NEAR || a.bottom - a.top <= NEAR;
    const window_: Box = { left: 0, top: 0, right: innerWidth, bottom: innerHeight };
    const clips = (style: CSSStyleDeclaration) => style.overflowX !== 'visible' || style.overflowY !== 'visible';
    /** What is left of a box where those around it clip it. */
    const shown = (element: Element, box: Box): Box => {
      let left = meet(box, window_);
      for (let e: Element | null = element; e; e = e.parentElement)
        if (clips(getComputedStyle(e))) left = meet(left, e.getBoundingClientRect());
      return left;
    };
    const scrolls = (element: Element): boolean => {
      for (let e: Element | null = element; e && e !== document.body; e = e.parentElement) {
        const { overflowX, overflowY } = getComputedStyle(e);
        if (
          /auto|scroll/.test(overflowX + overflowY) &&
          (e.scrollHeight > e.clientHeight + 1 || e.scrollWidth > e.clientWidth + 1)
        )
          return true;
      }
      return false;
    };
    const unseen = (element: Element) =>
      !element.checkVisibility({ opacityProperty: true, visibilityProperty: true }) || element.closest('.sr-only') !== null;
    /** The layer a thing is in: what opens over the page hides, and does not crowd, what lies under it. */
    const layer = (element: Element) =>
      element.closest('[role=dialog], [role=menu], [role=listbox], [data-layer]') ?? document.body;
    /** Whether nothing of another layer covers its middle. */
    const onTop = (element: Element, box: Box): boolean => {
      const hit = document.elementFromPoint((box.left + box.right) / 2, (box.top + box.bottom) / 2);
      return hit === null || hit.contains(element) || layer(hit) === layer(element);
    };
    interface Thing {
      element: Element;
      box: Box;
      says: string;
    }
    const texts: Thing[] = [];
    const walker = document.createTreeWalker(document.body, NodeFilter.SHOW_TEXT);
    for (let node = walker.nextNode(); node; node = walker.nextNode()) {
      const says = node.textContent!.trim();
      const element = node.parentElement!;
      if (says === '' || unseen(element) || element.closest('style, script')) continue;
      const range = document.createRange();
      range.selectNodeContents(node);
      for (const rect of range.getClientRects()) {
        const box = shown(element, rect);
        if (empty(box) || !onTop(element, box)) continue;
        texts.push({ element, box, says });
        const panel = layer(element).getBoundingClientRect();
        if (box.right - panel.right > NEAR || panel.left - box.left > NEAR) faults.add(`beyond its panel: “${says}”`);
        if (scrolls(element)) continue;
        // A name that ends in dots, whole under the pointer, may be short of room in a small window.
        const shortens =
          getComputedStyle(element).textOverflow === 'ellipsis' && element.title.includes(says) && box.right - box.left >= 32;
        // What an artist writes, a formula say, has no bound.
        if (shortens && (innerWidth < 1200 || says.length > LONG)) continue;
        if (rect.right - box.right > NEAR || box.left - rect.left > NEAR) faults.add(`cut: “${says}”`);
        if (rect.bottom - box.bottom > 4 || box.top - rect.top > 4) faults.add(`cut below or above: “${says}”`);
      }
    }
    // Fields show what they hold whole.
    for (const field of document.querySelectorAll<HTMLInputElement>(
      'input:not([type=range]):not([type=checkbox]):not([type=color])',
    )) {
      if (unseen(field) || field === document.activeElement) continue;
      if (field.scrollWidth > field.clientWidth + NEAR)
        faults.add(`cut in the field “${field.ariaLabel}”: “${field.value || field.placeholder}”`);
    }
    const controls: Thing[] = [];
    for (const element of document.querySelectorAll(
      'button, a[href], input, select, textarea, [role=slider], [role=switch], [role=combobox], [role=menuitem], [role=option], [role=tab]',
    )) {
      if (unseen(element)) continue;
      const box = shown(element, element.getBoundingClientRect());
      if (empty(box) || !onTop(element, box)) continue;
      const says =
        element.getAttribute('aria-label') ?? (element.textContent || (element as HTMLInputElement).value || element.tagName);
      controls.push({ element, box, says });
    }
    const icons: Thing[] = [];
    for (const element of document.querySelectorAll('svg.lucide')) {
      if (unseen(element)) continue;
      const box = shown(element, element.getBoundingClientRect());
      if (!empty(box) && onTop(element, box)) icons.push({ element, box, says: element.getAttribute('class')! });
    }
    const within = (a: Element, b: Element) => a.contains(b) || b.contains(a);
    /** A whole card may be a link, with its words and buttons on it. */
    const surface = (link: Thing, other: Thing) =>
      link.element.tagName === 'A' && JSON.stringify(meet(link.box, other.box)) === JSON.stringify(meet(other.box, other.box));
    const compare = (things: Thing[], others: Thing[], kind: string) => {
      for (const [k, a] of things.entries())
        for (const b of things === others ? others.slice(k + 1) : others) {
          if (a.element === b.element || empty(meet(a.box, b.box)) || layer(a.element) !== layer(b.element)) continue;
          if (within(a.element, b.element) || surface(b, a) || surface(a, b)) continue;
          faults.add(`${kind}: “${a.says}” and “${b.says}”`);
        }
    };
    compare(texts, texts, 'text on text');
    compare(controls, controls, 'control on control');
    compare(texts, controls, 'text on a control');
    compare(icons, texts, 'icon on text');
    if (document.documentElement.scrollWidth > innerWidth) faults.add('the page is wider than the window');
    return [...faults];
  });
}
