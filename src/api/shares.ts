import { z } from 'zod';
import { lookAtShare } from '../app/share/look.ts';
import { shareAll, shareThing, shareWorkflows } from '../app/share/share.ts';
import { ShareRead } from '../app/share/share-here.ts';
import { ShareTaken, takeShare } from '../app/share/take.ts';
import { MOST_WORKFLOWS, type ShareFile } from '../core/share/share-file.ts';
import { download } from './download.ts';
import { doors } from './route.ts';

const asFile = ({ name, file }: { name: string; file: ShareFile }): Response =>
  download(name, 'application/json', `${JSON.stringify(file, null, 2)}\n`);

/** Things as open files, and files read again: docs/share.md. */
const { reads, takes } = doors('see-setup', 'build');

export const sharesRoutes = [
  reads(
    '/workflows/:workflow/share',
    async (use, { workflow }) => asFile(await shareWorkflows(use, [workflow])),
    'build',
  ),
  reads('/sources/:source/share', async (use, { source }) => asFile(await shareThing(use, source)), 'build'),
  reads(
    '/email-templates/:emailTemplate/share',
    async (use, { emailTemplate }) => asFile(await shareThing(use, emailTemplate)),
    'build',
  ),
  reads(
    '/chat-templates/:chatTemplate/share',
    async (use, { chatTemplate }) => asFile(await shareThing(use, chatTemplate)),
    'build',
  ),
  reads('/chat-forms/:chatForm/share', async (use, { chatForm }) => asFile(await shareThing(use, chatForm)), 'build'),
  // Those that are named, or all there are.
  reads(
    '/shares',
    async (use, _, query) => {
      const ids = query.getAll('workflow').filter((id) => z.uuid().safeParse(id).success);
      return asFile(await (ids.length > 0 ? shareWorkflows(use, ids.slice(0, MOST_WORKFLOWS)) : shareAll(use)));
    },
    'build',
  ),
  /** Looks into a file; nothing is made. */
  takes('POST', '/shares/look', ShareRead, (use, input) => lookAtShare(use, input)),
  takes('POST', '/shares', ShareTaken, (use, input) => takeShare(use, input)),
] as const;
