import { existsSync, readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { expect } from 'chai';

const root = join(import.meta.dirname, '../..');
const FLOORS = 'core|db|gateways|tables|sources|steps|reading|engine|app|api|web|islands|pages|server|worker|practice';

describe('the documents', () => {
  for (const document of ['docs/architecture.md', 'docs/glossary.md', 'CONTRIBUTING.md'])
    it(`${document} names only files that are there`, () => {
      const text = readFileSync(join(root, document), 'utf8');
      const named = [...text.matchAll(new RegExp(`\\b(?:${FLOORS})/(?:[\\w-]+/)*[\\w-]+\\.tsx?\\b`, 'g'))].map(
        ([path]) => path,
      );
      expect(named.length).to.be.greaterThan(3);
      // NAME stands for one that is to be made.
      expect(named.filter((path) => !path.includes('/NAME/') && !existsSync(join(root, 'src', path)))).to.deep.equal(
        [],
      );
    });

  describe('the help', () => {
    const folder = join(root, 'docs/help');
    const pages = readdirSync(folder).map((name) => ({ name, text: readFileSync(join(folder, name), 'utf8') }));
    const front = (text: string, key: string) => new RegExp(`^${key}: (.*)$`, 'm').exec(text)?.[1] ?? '';

    it('is twenty pages at most, each with a title and a place of its own, and a page for every view in the bar', () => {
      expect(pages.length).to.be.within(10, 20);
      for (const key of ['title', 'order'])
        expect(new Set(pages.map(({ text }) => front(text, key))).size, key).to.equal(pages.length);
      const explained = pages.flatMap(({ text }) => front(text, 'views').slice(1, -1).split(', ').filter(Boolean));
      expect(new Set(explained).size, 'a view has one page').to.equal(explained.length);
      const bar = readFileSync(join(root, 'src/layouts/App.astro'), 'utf8');
      const views = [...bar.matchAll(/\{ id: '(\w+)', name: '[^']+', href: '[^']+' \}/g)].map((found) => found[1]!);
      expect(new Set(views).size).to.equal(11);
      expect(explained).to.include.members([...views, 'settings', 'begin', 'conversations']);
    });

    it('shows only pictures that are there, and is short enough to be read', () => {
      for (const { name, text } of pages) {
        for (const [, picture] of text.matchAll(/!\[[^\]]+\]\(([^)]+)\)/g))
          expect(existsSync(join(folder, picture!)), `${name}: ${picture}`).to.equal(true);
        expect(text.split(/\s+/).length, name).to.be.within(60, 350);
      }
    });
  });
});
