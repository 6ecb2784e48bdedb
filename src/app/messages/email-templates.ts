import { convert } from 'html-to-text';
import mjmlCore from 'mjml-core';
import mjmlPreset from 'mjml-preset-core';
import { v7 as uuidv7 } from 'uuid';
import { z } from 'zod';
import { EmailLayout } from '../../core/email/layout.ts';
import { type LayoutProblem, layoutProblems } from '../../core/email/layout-problems.ts';
import { layoutText, toMjml } from '../../core/email/to-mjml.ts';
import { type FieldReference, referenceLabel } from '../../core/template/field-reference.ts';
import { renderTemplate, usedReferences } from '../../core/template/template.ts';
import { allConsents, startContext, templateScope } from '../../core/workflow/run-context.ts';
import { EmailTemplate, EmailTemplateVersion } from '../../db/entities/email-template.ts';
import { demand } from '../actor.ts';
import { notHere, Refusal } from '../refusal.ts';
import { refuseUnseen, seenAs } from '../seen.ts';
import type { Use, Write } from '../use.ts';
import { workflowsNaming } from '../workflows/used-by.ts';

export interface TemplateRow {
  id: string;
  name: string;
  version: number;
  changedAt: string;
  /** Names of workflows that use it. */
  usedBy: string[];
}

export interface TemplateView {
  id: string;
  seen: string;
  name: string;
  version: number;
  layout: EmailLayout;
  shown: LayoutShown;
  usedBy: string[];
}

export interface LayoutShown {
  /** Filled with an invented reader, for the preview. */
  html: string;
  text: string;
  problems: LayoutProblem[];
}

/** Both are CommonJS with a default export: Node gives the module, bundlers the export. */
const exportOf = <T>(module: T): T => (module as { default?: T }).default ?? module;
const mjml2html = exportOf(mjmlCore);
/** Comments stay: some mail programs read conditions in them. */
const MJML = { presets: [exportOf(mjmlPreset)], validationLevel: 'strict' as const, keepComments: true };

/** Kept files are shown from here; emails carry the whole address. */
const fileAddress = (use: Use) => (id: string) => `${use.runtime.settings.publicUrl}/kept/${id}`;

/** HTML and plain text of a layout, fields still in them. */
async function made(use: Use, layout: EmailLayout): Promise<{ html: string; text: string }> {
  if (layout.as === 'html') return { html: layout.html, text: convert(layout.html, { wordwrap: false }) };
  const { html } = await mjml2html(toMjml(layout, fileAddress(use)), MJML);
  return { html, text: layoutText(layout) };
}

/** What a layout looks like for an invented reader, and what is wrong with it. */
export async function showLayout(use: Use, layout: EmailLayout): Promise<LayoutShown> {
  const { html, text } = await made(use, layout);
  const person = { first_name: 'Robin', last_name: 'Vale', email: 'robin.vale@example.com', phone: '+447700900199' };
  const { businessName, country, timeZone, holidays } = use.actor;
  // What only a run will know is shown by its name.
  const named = (group: FieldReference['group']) =>
    Object.fromEntries(
      usedReferences(html).flatMap((fieldReference) =>
        fieldReference.group === group ? [[fieldReference.key, referenceLabel(fieldReference)]] : [],
      ),
    );
  const scope = templateScope(
    startContext({ person, answers: named('answers') }, person, {
      where: {},
      business: { name: businessName, country, timeZone, holidays },
      source: { name: 'A form' },
      consent: allConsents(),
      found: named('found'),
      happened: named('happened'),
    }),
  );
  const filled = renderTemplate(html, scope, 'html');
  const words = renderTemplate(text, scope);
  return {
    html: filled.ok ? filled.text : '',
    text: words.ok ? words.text : '',
    problems: layoutProblems(layout, html),
  };
}

export async function listTemplates(use: Use): Promise<TemplateRow[]> {
  const { rows } = await use.db.query(
    `select distinct on (t.id) t.id, t.name, v.number, v.created_at from email_template t
     join email_template_version v on v.template_id = t.id where t.business_id = $1 and t.removed_at is null order by t.id, v.number desc`,
    [use.actor.businessId],
  );
  const users = await workflowsNaming(
    use,
    rows.map((row) => row.id),
  );
  return rows
    .map((row) => ({
      id: row.id,
      name: row.name,
      version: row.number,
      changedAt: row.created_at.toISOString(),
      usedBy: users.get(row.id) ?? [],
    }))
    .sort((a, b) => a.name.localeCompare(b.name));
}

async function find(use: Use, id: string) {
  const template = await use.em.findOne(EmailTemplate, { id, business: use.actor.businessId });
  if (!template) throw notHere('template');
  const [version] = await use.em.find(
    EmailTemplateVersion,
    { template: id },
    { orderBy: { number: 'desc' }, limit: 1 },
  );
  return { template, version: version! };
}

export async function getTemplate(use: Use, id: string): Promise<TemplateView> {
  const { template, version } = await find(use, id);
  return {
    id,
    name: template.name,
    version: version.number,
    seen: seenAs(version.number),
    layout: version.layout,
    shown: await showLayout(use, version.layout),
    usedBy: (await workflowsNaming(use, [id])).get(id) ?? [],
  };
}

export const TemplateInput = z.object({
  name: z.string().trim().min(1, 'Give the template a name').max(100),
  layout: EmailLayout,
});

async function unusedName(use: Use, name: string, but: string | null): Promise<void> {
  const other = await use.em.findOne(EmailTemplate, { business: use.actor.businessId, name });
  if (other && other.id !== but)
    throw new Refusal(422, 'name-taken', `There is a template called "${name}" already. Choose another name.`);
}

export async function createTemplate(tx: Write, input: z.infer<typeof TemplateInput>): Promise<{ id: string }> {
  demand(tx.actor, 'build');
  await unusedName(tx, input.name, null);
  const at = new Date();
  const template = tx.em.create(EmailTemplate, {
    id: uuidv7(),
    business: tx.actor.businessId,
    name: input.name,
    createdAt: at,
  });
  tx.em.create(EmailTemplateVersion, {
    id: uuidv7(),
    template,
    number: 1,
    layout: input.layout,
    ...(await made(tx, input.layout)),
    createdAt: at,
    author: tx.actor.personId,
  });
  tx.note('email_template.create', template.id, { name: input.name });
  tx.forget();
  return { id: template.id };
}

/** A change is a new version; what has been sent stays as it was, what goes out from now on is the new one. */
export async function saveTemplate(
  tx: Write,
  id: string,
  input: z.infer<typeof TemplateInput>,
): Promise<{ version: number; seen: string }> {
  demand(tx.actor, 'build');
  await tx.db.query('select from email_template where id = $1 and business_id = $2 and removed_at is null for update', [
    id,
    tx.actor.businessId,
  ]);
  const { template, version } = await find(tx, id);
  refuseUnseen(tx, 'template', version.number);
  await unusedName(tx, input.name, id);
  template.name = input.name;
  const next = tx.em.create(EmailTemplateVersion, {
    id: uuidv7(),
    template,
    number: version.number + 1,
    layout: input.layout,
    ...(await made(tx, input.layout)),
    createdAt: new Date(),
    author: tx.actor.personId,
  });
  tx.note('email_template.save', id, { version: next.number });
  tx.forget();
  return { version: next.number, seen: seenAs(next.number) };
}

export async function removeTemplate(tx: Write, id: string): Promise<void> {
  demand(tx.actor, 'build');
  const { template } = await find(tx, id);
  const users = (await workflowsNaming(tx, [id])).get(id) ?? [];
  if (users.length > 0)
    throw new Refusal(409, 'in-use', `It is used by ${users.join(', ')}. Choose another template there first.`);
  tx.note('email_template.remove', id, { name: template.name });
  template.removedAt = new Date(tx.runtime.now());
  tx.forget();
}
