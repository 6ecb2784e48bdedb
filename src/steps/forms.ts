import type { ComponentType } from 'react';
import EmailForm from './email/form.tsx';
import type { StepFormProps } from './step-form.ts';
import TellForm from './tell/form.tsx';
import TextForm from './text/form.tsx';
import TidyForm from './tidy/form.tsx';

type StepForm = ComponentType<StepFormProps<Record<string, unknown>>>;
/** Each form is given settings that its own kind's schema has let through. */
const form = (made: unknown) => made as StepForm;

/** The form of each kind of step. A new kind is one line here beside its line in registry.ts. */
export const stepForms: Record<string, StepForm> = {
  tidy: form(TidyForm),
  text: form(TextForm),
  email: form(EmailForm),
  tell: form(TellForm),
};
