import { existsSync, readFileSync } from 'node:fs';
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
});
