import { z } from 'zod';
import { newFormPage, settleWordings } from '../../core/form/form-page.ts';
import type { LeadCard } from '../../core/source/lead-card.ts';
import type { SourceSetup } from '../source-module.ts';
import type { FormPageSettings } from './definition.ts';

/** A page begins with questions whose meaning is known. */
const CARD: LeadCard = {
  fields: { first_name: 'first_name', last_name: 'last_name', email: 'email', phone: 'phone' },
  consent: { kind: 'field', key: 'consent', wordingKey: 'consent_wording' },
};

const Input = z.object({ title: z.string().trim().min(1, 'Give the page a title').max(200) });
type Input = z.infer<typeof Input>;

export const formPageSetup: SourceSetup<Input, FormPageSettings> = {
  input: Input,
  prepare: async (ports, { title }) => {
    const page = newFormPage(title, ports.businessName);
    return {
      ok: true,
      name: title.slice(0, 100),
      card: CARD,
      settings: { page: settleWordings(null, page, new Date(ports.now).toISOString()) },
    };
  },
};
