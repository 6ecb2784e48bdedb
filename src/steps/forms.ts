import { type ComponentType, lazy } from 'react';
import type { StepFormProps } from './step-form.ts';

type StepForm = ComponentType<StepFormProps<Record<string, unknown>>>;
/** Loaded when a step of its kind is chosen. Each form is given settings that its own kind's schema has let through. */
const form = (load: () => Promise<{ default: unknown }>) => lazy(load as () => Promise<{ default: StepForm }>);

/** The form of each kind of step. A new kind is one line here beside its line in registry.ts. */
export const stepForms: Record<string, StepForm> = {
  tidy: form(() => import('./tidy/form.tsx')),
  check: form(() => import('./check/form.tsx')),
  'look-up': form(() => import('./look-up/form.tsx')),
  company: form(() => import('./company/form.tsx')),
  assign: form(() => import('./assign/form.tsx')),
  text: form(() => import('./text/form.tsx')),
  ask: form(() => import('./ask/form.tsx')),
  'chat-template': form(() => import('./chat-template/form.tsx')),
  chat: form(() => import('./chat/form.tsx')),
  mailing: form(() => import('./mailing/form.tsx')),
  list: form(() => import('./list/form.tsx')),
  email: form(() => import('./email/form.tsx')),
  'sheet-row': form(() => import('./sheet-row/form.tsx')),
  tag: form(() => import('./tag/form.tsx')),
  deal: form(() => import('./deal/form.tsx')),
  field: form(() => import('./field/form.tsx')),
  note: form(() => import('./note/form.tsx')),
  outcome: form(() => import('./outcome/form.tsx')),
  tell: form(() => import('./tell/form.tsx')),
  task: form(() => import('./task/form.tsx')),
  'hold-time': form(() => import('./hold-time/form.tsx')),
  'service-look-up': form(() => import('./service-look-up/form.tsx')),
  'service-record': form(() => import('./service-record/form.tsx')),
  'call-service': form(() => import('./call-service/form.tsx')),
};
