import { z } from 'zod';
import { readAs } from '../../core/read-as.ts';
import { type ISource, Pull } from '../../db/entities/source.ts';
import { newSigningSecret } from '../account/connections.ts';
import { demand } from '../actor.ts';
import { Refusal } from '../refusal.ts';
import type { Use, Write } from '../use.ts';
import { fetchSoon } from './fetch-soon.ts';
import { findSource, hookOf, keyFor, moduleOf, type SourceView, sourceView } from './sources.ts';

export const ChangeSource = z.object({
  name: z.string().trim().min(1, 'Give the source a name').max(100).optional(),
  paused: z.boolean().optional(),
  mostPerMinute: z.number().int().min(1, 'At least one a minute').max(60_000).optional(),
  everyMinutes: z.number().int().min(0).max(1440).optional(),
  settings: z.record(z.string(), z.unknown()).optional(),
});

export async function changeSource(tx: Write, id: string, input: z.infer<typeof ChangeSource>): Promise<SourceView> {
  demand(tx.actor, 'build');
  const source = await findSource(tx, id);
  const said = () => ({
    name: source.name,
    state: source.state,
    mostPerMinute: source.mostPerMinute,
    ...source.settings,
  });
  const before = said();
  if (input.name !== undefined) source.name = input.name;
  if (input.mostPerMinute !== undefined) source.mostPerMinute = input.mostPerMinute;
  if (input.paused !== undefined) {
    if (!source.cardConfirmed)
      throw new Refusal(409, 'no-card', 'Say first which field is which; then this source can go live.');
    source.state = input.paused ? 'paused' : 'live';
    if (!input.paused) await fetchSoon(tx, id);
  }
  if (input.everyMinutes !== undefined) {
    const pull = await tx.em.findOne(Pull, { source: id });
    if (pull) Object.assign(pull, { everyMinutes: input.everyMinutes, nextAt: new Date() });
  }
  if (input.settings) source.settings = changedSettings(source, input.settings);
  tx.note('source.change', id, {
    before,
    after: said(),
    ...(input.everyMinutes === undefined ? {} : { everyMinutes: input.everyMinutes }),
  });
  await tx.em.flush();
  tx.forget();
  return sourceView(tx, source);
}

function changedSettings(source: ISource, change: Record<string, unknown>): Record<string, unknown> {
  const { definition } = moduleOf(source);
  const allowed = Object.fromEntries(
    Object.entries(change).filter(([name]) => (definition.changeable as readonly string[]).includes(name)),
  );
  const read = readAs(definition.settings, { ...source.settings, ...allowed });
  if (!read.success) {
    const issue = read.error.issues[0];
    throw new Refusal(422, 'input', `${issue?.message ?? 'Something is missing'}.`, { field: issue?.path.join('.') });
  }
  const before = definition.settings.parse(source.settings);
  return (definition.settle?.(before, read.data, new Date().toISOString()) ?? read.data) as Record<string, unknown>;
}

/** Gives the source another address, for when the old one is known to somebody it should not be. The old one ends at once. */
export async function renewAddress(use: Use, id: string): Promise<SourceView> {
  demand(use.actor, 'build');
  const source = await findSource(use, id);
  const module = moduleOf(source);
  const key = keyFor(module);
  const secret = newSigningSecret();
  const settings = module.definition.settings.parse(source.settings);
  let repointed: Record<string, unknown> | null = null;
  if (module.setup.repoint) {
    const done = await module.setup.repoint(
      use.runtime.sourcePorts.of(use.actor.businessId, use.actor.businessName),
      settings,
      {
        address: hookOf(use, key),
        secret,
      },
    );
    if (!done.ok) throw new Refusal(502, 'not-repointed', `${done.problem} The old address still holds.`);
    repointed = done.settings as Record<string, unknown>;
  }
  return use.write(async (tx) => {
    const found = await findSource(tx, id);
    Object.assign(found, {
      key,
      secret: tx.runtime.secrets.seal(secret),
      ...(repointed ? { settings: repointed } : {}),
    });
    tx.note('source.new_address', id);
    await tx.em.flush();
    tx.forget();
    return sourceView(tx, found);
  });
}
