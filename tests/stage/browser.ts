import { expect } from 'chai';
import puppeteer, { type Browser, type ElementHandle, type Page, TimeoutError } from 'puppeteer-core';
import { browserPath } from '../../scripts/setup/debian.mjs';
import { SIGN_IN, type Stage, until } from './stage.ts';

/** What has the keyboard: its words, or what it is called. */
export const focused = () => {
  const at = document.activeElement as HTMLElement | null;
  const labels =
    at instanceof HTMLInputElement || at instanceof HTMLSelectElement || at instanceof HTMLTextAreaElement
      ? at.labels
      : null;
  return (at?.getAttribute('aria-label') || labels?.[0]?.textContent || at?.textContent || '')
    .replace(/\s+/g, ' ')
    .trim();
};

/** A person at a browser: finds things by what stands on them. */
export class Visitor {
  readonly troubles: string[] = [];
  constructor(readonly page: Page) {
    // Left while something is still being saved, a page asks; a person who means it says yes.
    page.on('dialog', (dialog) => void dialog.accept());
    page.on('pageerror', (error) => this.troubles.push((error as Error).message));
    page.on('console', (message) => {
      // A refused call is told on the screen; what must not happen is a script that breaks or is blocked.
      if (message.type() === 'error' && !/status of 4\d\d/.test(message.text())) this.troubles.push(message.text());
    });
  }

  /** The visible button, link, tab or summary with these words. */
  async find(words: string | RegExp, within = 'body'): Promise<ElementHandle<HTMLElement>> {
    const handle = await until(`"${words}" on ${this.page.url()}`, async () => {
      const found = await this.page
        .evaluateHandle(
          (source, plain, root) => {
            const fits = (text: string) => (plain === null ? new RegExp(source).test(text) : text === plain);
            const inside = document.querySelector(root);
            return [
              ...(inside?.querySelectorAll<HTMLElement>('button, a, summary, [role=tab], [role=option], label') ?? []),
            ].find(
              (element) =>
                element.checkVisibility() &&
                (fits(element.textContent?.replace(/\s+/g, ' ').trim() ?? '') ||
                  fits(element.getAttribute('aria-label') ?? '')),
            );
          },
          typeof words === 'string' ? '' : words.source,
          typeof words === 'string' ? words : null,
          within,
        )
        .catch(() => null);
      const element = found?.asElement() as ElementHandle<HTMLElement> | null | undefined;
      return element ?? null;
    });
    return handle;
  }
  async click(words: string | RegExp, within?: string): Promise<void> {
    await this.find(words, within);
    await this.awake();
    // Looked for again: an island that has just woken may have drawn it anew.
    const element = await this.find(words, within);
    // What still moves while the page is put together is clicked beside: it is waited for until it stands.
    await element.evaluate(async (hTMLElement) => {
      hTMLElement.scrollIntoView({ block: 'center' });
      const place = () => JSON.stringify(hTMLElement.getBoundingClientRect());
      for (let [before, left] = ['', 60]; left > 0 && before !== place(); left--) {
        before = place();
        await new Promise((drawn) => setTimeout(drawn, 34));
      }
    });
    await element.click();
  }
  async sees(words: string | RegExp, within = 'body'): Promise<string> {
    return until(`to see ${words} in ${within}`, async () => {
      const text = await this.page
        .evaluate((root) => (document.querySelector(root) as HTMLElement | null)?.innerText ?? '', within)
        .catch(() => '');
      return (typeof words === 'string' ? text.includes(words) : words.test(text)) ? text : null;
    });
  }
  /** Chooses from the list with this label, or whose label begins so. */
  async choose(label: string, words: string, within = 'body'): Promise<void> {
    await this.awake();
    await until(`the choice ${label}: ${words}`, () =>
      this.page
        .evaluate(
          (name, option, root) => {
            const select = [...document.querySelectorAll<HTMLSelectElement>(`${root} select`)].find(
              (select) =>
                (select.getAttribute('aria-label') ?? select.labels?.[0]?.textContent ?? '').startsWith(name) &&
                select.checkVisibility(),
            );
            const found = [...(select?.options ?? [])].find(({ text }) => text.startsWith(option));
            if (!select) {
              // A list that opens beside its button: opened first, then chosen from.
              const open = [...document.querySelectorAll<HTMLElement>('[role=listbox] [role=option]')].find(
                (one) => (one.innerText ?? '').trim().startsWith(option) && one.checkVisibility(),
              );
              const opener = [...document.querySelectorAll<HTMLElement>(`${root} button[aria-haspopup]`)].find(
                (one) => one.getAttribute('aria-label')?.startsWith(`${name}: `) && one.checkVisibility(),
              );
              if (open && opener?.ariaExpanded === 'true') open.click();
              else if (opener?.ariaExpanded === 'false') opener.click();
              return open !== undefined && opener?.ariaExpanded === 'true';
            }
            if (!found) return false;
            Object.getOwnPropertyDescriptor(HTMLSelectElement.prototype, 'value')!.set!.call(select, found.value);
            select.dispatchEvent(new Event('change', { bubbles: true }));
            return true;
          },
          label,
          words,
          within,
        )
        .catch(() => false),
    );
  }
  /** Types into the field with this label, or whose label begins so. */
  async fills(label: string, text: string): Promise<void> {
    const field = await until(`the field ${label} on ${this.page.url()}`, async () => {
      const found = await this.page
        .evaluateHandle(
          (name) =>
            [...document.querySelectorAll<HTMLInputElement | HTMLTextAreaElement>('input, textarea')].find(
              (one) =>
                (one.labels?.[0]?.textContent ?? one.getAttribute('aria-label') ?? '').trim().startsWith(name) &&
                one.checkVisibility(),
            ),
          label,
        )
        .catch(() => null);
      return (found?.asElement() as ElementHandle<HTMLInputElement> | null | undefined) ?? null;
    });
    await this.awake();
    await field.click({ count: 3 });
    await this.page.keyboard.type(text);
  }
  /** Tab after Tab, as far as the page goes, until the keyboard is there and can be seen to be there. */
  async tabsTo(words: string | RegExp): Promise<void> {
    await this.awake();
    const passed: string[] = [];
    for (let i = 0; i < 250; i++) {
      await this.page.keyboard.press('Tab');
      const now = await this.page.evaluate(focused);
      passed.push(now);
      if (typeof words === 'string' ? now === words : words.test(now)) {
        const seen = await this.page.evaluate(() => {
          const at = document.activeElement!;
          // What is not seen itself is seen by its label.
          const shown = (at.matches('input.sr-only') && at.closest('label')) || at;
          const { outlineStyle, boxShadow } = getComputedStyle(shown);
          return outlineStyle !== 'none' || boxShadow !== 'none';
        });
        expect(seen, `a ring around ${words}`).to.equal(true);
        return;
      }
    }
    throw new Error(`the keyboard does not come to ${words}; it came to ${[...new Set(passed)].join(' | ')}`);
  }
  async goes(url: string): Promise<void> {
    await this.page.goto(url, { waitUntil: 'load' });
    await this.awake();
  }
  /** Does what leads to another page, or shows this one anew, and is there once that is awake: what is typed meanwhile would go to the one that is left. */
  async leaves(doing: () => Promise<unknown>): Promise<void> {
    await this.page.evaluate('globalThis.leftBehind = true');
    await doing();
    await until(`another page than ${this.page.url()}`, () =>
      this.page.evaluate('globalThis.leftBehind === undefined').catch(() => false),
    );
    await this.awake();
  }
  /** Islands answer once they are awake, and what listens for keys once it has been drawn; also on a page that a click has led to. */
  private awake(): Promise<boolean> {
    return until(`the page ${this.page.url()} to be awake`, () =>
      this.page
        .evaluate(async () => {
          const asleep = [...document.querySelectorAll('astro-island')].some(
            (island) =>
              island.hasAttribute('ssr') ||
              (island.firstElementChild &&
                !Object.keys(island.firstElementChild).some((key) => key.startsWith('__reactFiber'))),
          );
          if (document.readyState !== 'complete' || asleep) return false;
          await new Promise((drawn) => requestAnimationFrame(() => setTimeout(drawn)));
          return true;
        })
        // The page is just being left.
        .catch(() => false),
    );
  }
  async types(selector: string, text: string): Promise<void> {
    await this.page.waitForSelector(selector);
    await this.awake();
    await this.page.click(selector, { count: 3 });
    await this.page.keyboard.type(text);
  }
}

let browser: Promise<Browser> | null = null;
export function openBrowser(): Promise<Browser> {
  browser ??= puppeteer.launch({
    executablePath: browserPath()!,
    headless: 'shell',
    args: [
      '--no-sandbox',
      '--disable-dev-shm-usage',
      '--disable-gpu',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
      '--disable-quic',
    ],
  });
  return browser;
}
export async function closeBrowser(): Promise<void> {
  await (await browser)?.close();
  browser = null;
}

export async function visitor(): Promise<Visitor> {
  const page = await (await (await openBrowser()).createBrowserContext()).newPage();
  await page.setViewport({ width: 1280, height: 800 });
  // What runs in the page is compiled with the tests and refers to this by name.
  await page.evaluateOnNewDocument('globalThis.__name = (made) => made');
  page.waitForSelector = acrossPages(page, page.waitForSelector.bind(page)) as typeof page.waitForSelector;
  page.waitForFunction = acrossPages(page, page.waitForFunction.bind(page)) as typeof page.waitForFunction;
  return new Visitor(page);
}

/** A page that is just being left takes with it what is waited for on it, in half a dozen different words: then it is waited for on the next. */
function acrossPages<Args extends unknown[], T>(page: Page, wait: (...args: Args) => Promise<T>) {
  return async (...args: Args): Promise<T> => {
    for (let left = 20; ; left--)
      try {
        return await wait(...args);
      } catch (error) {
        if (error instanceof TimeoutError || page.isClosed() || left === 0) throw error;
        await new Promise((resolve) => setTimeout(resolve, 100));
      }
  };
}

export async function signedInVisitor(stage: Stage, who = SIGN_IN): Promise<Visitor> {
  const made = await visitor();
  await made.goes(`${stage.url}/sign-in`);
  await made.page.type('#email', who.email);
  await made.page.type('#password', who.password);
  await made.click('Sign in', 'form');
  await made.sees('median time to first reply today');
  return made;
}
