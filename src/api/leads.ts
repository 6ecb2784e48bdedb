import { z } from 'zod';
import { listBulk, StartBulk, startBulk, stopBulk } from '../app/leads/bulk.ts';
import { countChosen } from '../app/leads/choosing.ts';
import { ConsentByHand, consentTable, recordConsent } from '../app/leads/consent-record.ts';
import { editLead, LeadEdit, settleTask } from '../app/leads/edit-lead.ts';
import { getLead } from '../app/leads/get-lead.ts';
import { eraseLead, exportLead, mergeLeads, previewMerge, undoMerge } from '../app/leads/lead-care.ts';
import { putBack } from '../app/leads/lead-changes.ts';
import { leadsAsTable, listLeads } from '../app/leads/lead-rows.ts';
import { NewOutcome, noteOutcome, takeBackOutcome } from '../app/leads/outcomes.ts';
import { releaseNumber } from '../app/leads/release-number.ts';
import { changeSegment, createSegment, listSegments, removeSegment, SegmentInput } from '../app/leads/segments.ts';
import { createTag, listTags, removeTag } from '../app/leads/tags.ts';
import { choiceOfQuery } from '../core/people/choice-query.ts';
import { LeadChoice } from '../core/people/lead-choice.ts';
import { askedId } from '../web/asked-id.ts';
import { download, table } from './download.ts';
import { doors } from './route.ts';

const TagName = z.object({ name: z.string().trim().min(1, 'Give the tag a name').max(60) });

const { reads, takes, writes, writesAlone } = doors('see-work', 'do-work');

export const leadsRoutes = [
  writesAlone('POST', '/bulk/:bulk/stop', (tx, { bulk }) => stopBulk(tx, bulk), 'build'),
  reads('/bulk', (use) => listBulk(use), 'see-setup'),
  writes('POST', '/bulk', StartBulk, (tx, input) => startBulk(tx, input), 'build'),
  writesAlone('POST', '/leads/:lead/changes/:change', (tx, { lead, change }) => putBack(tx, lead, change)),
  writes('POST', '/leads/:lead/consents', ConsentByHand, (tx, input, { lead }) => recordConsent(tx, lead, input)),
  takes(
    'POST',
    '/leads/:lead/erase',
    z.object({ name: z.string().max(300) }),
    (use, { name }, { lead }) => eraseLead(use, lead, name),
    'manage',
  ),
  /** Everything known of one person, as a file. */
  reads(
    '/leads/:lead/export',
    async (use, { lead }) =>
      download(
        'everything-we-know.json',
        'application/json',
        JSON.stringify(await use.write((tx) => exportLead(tx, lead)), null, 2),
      ),
    'build',
  ),
  reads('/leads/:lead', (use, { lead }) => getLead(use, lead)),
  writes('POST', '/leads/:lead/outcomes', NewOutcome, (tx, input, { lead }) => noteOutcome(tx, lead, input)),
  writesAlone('DELETE', '/leads/:lead/outcomes/:outcome', (tx, { lead, outcome }) =>
    takeBackOutcome(tx, lead, outcome),
  ),
  writes('PUT', '/leads/:lead', LeadEdit, (tx, input, { lead }) => editLead(tx, lead, input)),
  reads('/leads/:lead/merge', (use, { lead }, query) => previewMerge(use, lead, askedId(query, 'with') ?? '')),
  writes(
    'POST',
    '/leads/:lead/merge',
    z.object({ with: z.uuid() }),
    (tx, input, { lead }) => mergeLeads(tx, lead, input.with),
    'build',
  ),
  writesAlone('POST', '/leads/:lead/release-number', (tx, { lead }) => releaseNumber(tx, lead)),
  /** The consents of chosen leads as a file. */
  reads(
    '/leads/consents',
    async (use, _, query) => table(use, query, await consentTable(use, choiceOfQuery(query))),
    'build',
  ),
  takes('POST', '/leads/count', LeadChoice, (use, choice) => countChosen(use, choice), 'see-work'),
  /** Chosen leads as a file. */
  reads(
    '/leads/file',
    async (use, _, query) => table(use, query, await leadsAsTable(use, choiceOfQuery(query))),
    'build',
  ),
  reads('/leads', (use, _, query) => listLeads(use, { choice: choiceOfQuery(query), before: query.get('before') })),
  writesAlone('POST', '/merges/:merge/undo', (tx, { merge }) => undoMerge(tx, merge), 'build'),
  writes(
    'PUT',
    '/segments/:segment',
    SegmentInput,
    (tx, input, { segment }) => changeSegment(tx, segment, input),
    'build',
  ),
  writesAlone('DELETE', '/segments/:segment', (tx, { segment }) => removeSegment(tx, segment), 'build'),
  reads('/segments', (use) => listSegments(use, true)),
  writes('POST', '/segments', SegmentInput, (tx, input) => createSegment(tx, input), 'build'),
  reads('/tags', (use) => listTags(use), 'see-setup'),
  writesAlone('DELETE', '/tags/:tag', (tx, { tag }) => removeTag(tx, tag), 'build'),
  writes('POST', '/tags', TagName, (tx, { name }) => createTag(tx, name)),
  writes('PUT', '/tasks/:task', z.object({ done: z.boolean() }), (tx, { done }, { task }) =>
    settleTask(tx, task, done),
  ),
] as const;
