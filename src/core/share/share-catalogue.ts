import type { Catalogue } from '../workflow/step-kind.ts';
import type { SharedThing, ShareFile } from './share-file.ts';

/** Names of a file's things where steps look for them, so that it can be read aloud before any of them is here. */
export function catalogueOfShare(file: ShareFile, here: Catalogue): Catalogue {
  const of = <K extends SharedThing['kind']>(kind: K) =>
    file.things.filter((one): one is Extract<SharedThing, { kind: K }> => one.kind === kind);
  return {
    ...here,
    tags: of('tag'),
    sources: of('source'),
    colleagues: of('colleague').map(({ id }) => ({ id, name: 'a colleague', email: '', phone: '' })),
    tabs: of('tab').map(({ id, name, columns }) => ({ id, name, columns })),
    stages: of('pipeline').flatMap(({ stages }) => stages),
    lists: of('list').map((list) => ({ ...list, asked: 0, confirmed: 0, stopped: '' })),
    segments: of('segment'),
    chatTemplates: of('chat-template').map(({ id, name }) => ({ id, name, approved: null })),
    chatForms: of('chat-form').map(({ id, name }) => ({ id, name, live: null })),
    emailTemplates: of('email-template').map(({ id, name }) => ({ id, name, html: '', text: '' })),
  };
}
