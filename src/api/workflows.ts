import { z } from 'zod';
import { draftFromSentence, lookAtSentence, Sentence, SentenceTaken } from '../app/workflows/from-sentence.ts';
import { getRun } from '../app/workflows/get-run.ts';
import { LOG_FILTERS, type LogFilter, listRuns } from '../app/workflows/list-runs.ts';
import { pauseWorkflow, putLive, underWay } from '../app/workflows/live.ts';
import { rehearse, rehearseLast } from '../app/workflows/rehearse.ts';
import { removeWorkflow } from '../app/workflows/removal.ts';
import { RunAgain, runAgain, settleRun } from '../app/workflows/run-again.ts';
import { chooseSample, getSheet } from '../app/workflows/run-sheet.ts';
import { sendToMe } from '../app/workflows/send-to-me.ts';
import {
  copyWorkflow,
  createWorkflow,
  listWorkflows,
  renameWorkflow,
  restoreVersion,
  saveDraft,
} from '../app/workflows/workflows.ts';
import { Definition } from '../core/workflow/definition.ts';
import { askedId } from '../web/asked-id.ts';
import { doors } from './route.ts';

const Name = z.object({
  name: z.string().trim().min(1, 'Give the workflow a name').max(120),
  folder: z.string().trim().max(60),
});

const Rehearsal = z.object({
  arrivalId: z.uuid().nullable(),
  happens: z.boolean().default(false),
  values: z.record(z.string().max(200), z.string().max(5000)).optional(),
});

const StepToMe = z.object({ stepId: z.string().max(40), arrivalId: z.uuid().nullable() });

const Create = z.object({
  name: z.string().trim().min(1, 'Give the workflow a name').max(120),
  folder: z.string().trim().max(60),
  /** What it listens to from the start. */
  sourceId: z.uuid().optional(),
});

const { does, reads, takes, writes, writesAlone } = doors('see-setup', 'build');

export const workflowsRoutes = [
  takes('POST', '/sentences/read', Sentence, (use, input) => lookAtSentence(use, input), 'see-setup'),
  takes('POST', '/sentences', SentenceTaken, (use, input) => draftFromSentence(use, input)),
  writesAlone('POST', '/workflows/:workflow/copy', (tx, { workflow }) => copyWorkflow(tx, workflow)),
  reads('/workflows/:workflow', (use, { workflow }) => getSheet(use, workflow)),
  writes(
    'PUT',
    '/workflows/:workflow',
    z.object({ revision: z.number().int(), draft: Definition }),
    (tx, input, { workflow }) => saveDraft(tx, workflow, input),
  ),
  writes('POST', '/workflows/:workflow', Name, (tx, input, { workflow }) => renameWorkflow(tx, workflow, input)),
  writesAlone('DELETE', '/workflows/:workflow', (tx, { workflow }, query) =>
    removeWorkflow(tx, workflow, query.get('agreed') === '1'),
  ),
  /** How many leads are under way on older versions, and how many of them could go on with the draft. */
  reads('/workflows/:workflow/live', (use, { workflow }) => underWay(use, workflow)),
  /** Puts the draft live, as whoever asks has seen it; leads under way finish on their version, or move on to this one. */
  writes(
    'POST',
    '/workflows/:workflow/live',
    z.object({ revision: z.number().int().optional(), moveOn: z.boolean().default(false) }),
    (tx, input, { workflow }) => putLive(tx, workflow, input),
  ),
  /** Pauses or resumes what is live. */
  writes('PUT', '/workflows/:workflow/live', z.object({ paused: z.boolean() }), (tx, { paused }, { workflow }) =>
    pauseWorkflow(tx, workflow, paused),
  ),
  does('POST', '/workflows/:workflow/rehearse-last', (use, { workflow }) => rehearseLast(use, workflow), 'see-setup'),
  takes(
    'POST',
    '/workflows/:workflow/rehearse',
    Rehearsal,
    (use, input, { workflow }) => rehearse(use, workflow, input),
    'see-setup',
  ),
  writes(
    'POST',
    '/workflows/:workflow/restore',
    z.object({ number: z.number().int().positive() }),
    (tx, { number }, { workflow }) => restoreVersion(tx, workflow, number),
  ),
  takes('POST', '/workflows/:workflow/runs/:run/again', RunAgain, (use, input, { workflow, run }) =>
    runAgain(use, workflow, run, input),
  ),
  writesAlone('POST', '/workflows/:workflow/runs/:run/handled', (tx, { run }) => settleRun(tx, run)),
  reads('/workflows/:workflow/runs/:run', (use, { workflow, run }) => getRun(use, workflow, run)),
  reads('/workflows/:workflow/runs', (use, { workflow }, query) => {
    const wanted = query.get('show') as LogFilter;
    return listRuns(use, workflow, {
      search: query.get('search') ?? '',
      filter: LOG_FILTERS.includes(wanted) ? wanted : 'all',
      before: askedId(query, 'before'),
    });
  }),
  writes(
    'PUT',
    '/workflows/:workflow/sample',
    z.object({ arrivalId: z.uuid().nullable() }),
    (tx, { arrivalId }, { workflow }) => chooseSample(tx, workflow, arrivalId),
  ),
  takes('POST', '/workflows/:workflow/send-to-me', StepToMe, (use, { stepId, arrivalId }, { workflow }) =>
    sendToMe(use, workflow, stepId, arrivalId),
  ),
  reads('/workflows', (use) => listWorkflows(use)),
  writes('POST', '/workflows', Create, (tx, input) => createWorkflow(tx, input)),
] as const;
