import { listOutcomeKinds, removeOutcomeKind } from '../app/leads/outcomes.ts';
import { askedResults } from '../app/results/asked.ts';
import { getBehind } from '../app/results/behind.ts';
import {
  addFeed,
  addRates,
  fetchNow,
  forgetCosts,
  getCosts,
  lookAtCosts,
  NewFeed,
  NewRates,
  OneRate,
  removeFeed,
  removeRate,
  Told,
  takeCosts,
} from '../app/results/costs.ts';
import { askedGroup } from '../app/results/group.ts';
import { getNames, OneName, ShownName, showNameAs, showNameAsItCame } from '../app/results/mark-names.ts';
import { getSideBySide } from '../app/results/models.ts';
import { getMonthMail, MonthMailInput, setMonthMail } from '../app/results/month.ts';
import { getReplies } from '../app/results/replies.ts';
import { resultFile } from '../app/results/result-file.ts';
import { addSite, listSites, NewSite, removeSite } from '../app/results/sites.ts';
import { askedWithin, getStepResults } from '../app/results/step-results.ts';
import { getWayThrough } from '../app/results/way-through.ts';
import { getWhereFrom } from '../app/results/where-from.ts';
import type { Use } from '../app/use.ts';
import { table } from './download.ts';
import { doors } from './route.ts';

const asked = (use: Use, query: URLSearchParams) => askedResults(query, use.actor, use.runtime.now());

/** A file of costs, in bytes: 8 MiB. */
const MOST_COSTS = 8 * 1024 * 1024;

const { reads, takesFile, writes, writesAlone } = doors('see-results', 'build');

export const resultsRoutes = [
  reads('/results', (use, _, query) => getWhereFrom(use, asked(use, query))),
  reads('/results/file', async (use, _, query) => table(use, query, await resultFile(use, asked(use, query)))),
  reads('/results/models', (use, _, query) => getSideBySide(use, asked(use, query))),
  reads('/results/people', (use, _, query) => getBehind(use, asked(use, query), query)),
  reads('/results/way', (use, _, query) => getWayThrough(use, asked(use, query), askedGroup(query))),
  reads('/results/replies', (use, _, query) => getReplies(use, asked(use, query), askedGroup(query))),
  reads('/results/costs', (use) => getCosts(use)),
  takesFile('/results/costs/look', MOST_COSTS, (use, file, _, query) => lookAtCosts(use, file, query.get('columns'))),
  takesFile('/results/costs', MOST_COSTS, (use, file, _, query) => takeCosts(use, file, query.get('columns'))),
  writes('POST', '/results/costs/forget', Told, (tx, input) => forgetCosts(tx, input)),
  writes('POST', '/results/costs/feeds', NewFeed, (tx, input) => addFeed(tx, input)),
  writesAlone('POST', '/results/costs/feeds/:feed', (tx, { feed }) => fetchNow(tx, feed)),
  writesAlone('DELETE', '/results/costs/feeds/:feed', (tx, { feed }) => removeFeed(tx, feed)),
  writes('POST', '/results/rates', NewRates, (tx, input) => addRates(tx, input)),
  writes('POST', '/results/rates/remove', OneRate, (tx, input) => removeRate(tx, input)),
  reads('/results/names', (use, _, query) => getNames(use, asked(use, query))),
  writes('POST', '/results/names', ShownName, (tx, input) => showNameAs(tx, input)),
  writes('POST', '/results/names/as-it-came', OneName, (tx, input) => showNameAsItCame(tx, input)),
  reads('/results/month/mail', (use) => getMonthMail(use)),
  writes('PUT', '/results/month/mail', MonthMailInput, (tx, input) => setMonthMail(tx, input)),
  reads('/results/outcomes', (use) => listOutcomeKinds(use)),
  writesAlone('DELETE', '/results/outcomes/:counted', (tx, { counted }) => removeOutcomeKind(tx, counted)),
  reads('/results/sites', (use) => listSites(use)),
  writes('POST', '/results/sites', NewSite, (tx, input) => addSite(tx, input)),
  writesAlone('DELETE', '/results/sites/:site', (tx, { site }) => removeSite(tx, site)),
  reads('/workflows/:workflow/results', (use, { workflow }, query) =>
    getStepResults(use, workflow, asked(use, query), askedWithin(query)),
  ),
] as const;
