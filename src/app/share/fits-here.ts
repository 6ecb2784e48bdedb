import type { SharedThing } from '../../core/share/share-file.ts';
import { swapIds } from '../../core/share/swap-ids.ts';
import { inOrder } from '../seen.ts';

const plain = (text: string) => text.trim().toLocaleLowerCase('en');
const same = (a: unknown, b: unknown) => JSON.stringify(inOrder(a)) === JSON.stringify(inOrder(b));
/** Each by its name; null where one has no like. */
function byName<T extends { id: string; name: string }>(
  wanted: readonly T[],
  there: readonly T[],
): Map<string, string> | null {
  const found = new Map<string, string>();
  for (const one of wanted) {
    const like = there.find((other) => plain(other.name) === plain(one.name));
    if (!like) return null;
    found.set(one.id, like.id);
  }
  return found;
}

/**
 * Whether a thing that is here can stand for one of a file, and then the ids here by those of the file; null where it would have to be another. `ids`
 * are those known so far. One that holds more than is asked for is as good; one whose words differ is not.
 */
export function fitsHere(
  wanted: SharedThing,
  here: SharedThing,
  ids: ReadonlyMap<string, string>,
): Map<string, string> | null {
  if (wanted.kind !== here.kind || plain(wanted.name) !== plain(here.name)) return null;
  const itself = new Map([[wanted.id, here.id]]);
  const known = <T>(value: T): T => swapIds(value, (id) => ids.get(id) ?? id);
  switch (wanted.kind) {
    case 'tag':
      return itself;
    case 'list':
      return here.kind === 'list' && wanted.fields.every(({ key }) => here.fields.some((field) => field.key === key))
        ? itself
        : null;
    case 'tab': {
      const columns = here.kind === 'tab' ? byName(wanted.columns, here.columns) : null;
      return columns && new Map([...itself, ...columns]);
    }
    case 'pipeline': {
      const stages = here.kind === 'pipeline' ? byName(wanted.stages, here.stages) : null;
      return stages && new Map([...itself, ...stages]);
    }
    case 'segment':
      return here.kind === 'segment' && same(known(wanted.condition), here.condition) ? itself : null;
    case 'email-template':
      return here.kind === 'email-template' && same(known(wanted.layout), here.layout) ? itself : null;
    case 'chat-form':
      return here.kind === 'chat-form' && same(wanted.form, here.form) ? itself : null;
    case 'chat-template':
      return here.kind === 'chat-template' && same(known(wanted.content), here.content) ? itself : null;
    case 'source':
      return here.kind === 'source' && here.sourceKind === wanted.sourceKind ? itself : null;
    // Who it is there is for somebody to say.
    case 'colleague':
    case 'gone':
      return null;
  }
}
