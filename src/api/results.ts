import { askedResults } from '../app/results/asked.ts';
import { getBehind } from '../app/results/behind.ts';
import { askedGroup } from '../app/results/group.ts';
import { getSideBySide } from '../app/results/models.ts';
import { getReplies } from '../app/results/replies.ts';
import { resultFile } from '../app/results/result-file.ts';
import { getWayThrough } from '../app/results/way-through.ts';
import { getWhereFrom } from '../app/results/where-from.ts';
import type { Use } from '../app/use.ts';
import { table } from './download.ts';
import { reads } from './route.ts';

const asked = (use: Use, query: URLSearchParams) => askedResults(query, use.actor, use.runtime.now());

export const resultsRoutes = [
  reads('/results', (use, _, query) => getWhereFrom(use, asked(use, query))),
  reads('/results/file', async (use, _, query) => table(use, query, await resultFile(use, asked(use, query)))),
  reads('/results/models', (use, _, query) => getSideBySide(use, asked(use, query))),
  reads('/results/people', (use, _, query) => getBehind(use, asked(use, query), query)),
  reads('/results/way', (use, _, query) => getWayThrough(use, asked(use, query), askedGroup(query))),
  reads('/results/replies', (use, _, query) => getReplies(use, asked(use, query), askedGroup(query))),
] as const;
