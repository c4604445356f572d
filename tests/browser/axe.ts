/** What axe-core finds (WCAG 2.2 A and AA, best practices), whatever it calls serious. */
import { AxeBuilder } from '@axe-core/playwright';
import type { Page } from '@playwright/test';

/** @param modal a menu is open, and the page behind it is hidden until it closes */
export async function finds(page: Page, modal = false): Promise<string[]> {
  // The rules cannot see that the focus is held in the menu, nor that arrows walk a menu that scrolls: its test looks.
  const axe = new AxeBuilder({ page }).disableRules(
    modal ? ['aria-hidden-focus', 'scrollable-region-focusable', 'landmark-one-main', 'page-has-heading-one', 'region'] : [],
  );
  const { violations } = await axe.analyze();
  return violations.flatMap((v) => v.nodes.map((n) => `${v.impact} ${v.id}: ${n.html.slice(0, 120)}`));
}
