import type { ComponentType } from 'react';
import AssignForm from './assign/form.tsx';
import CallServiceForm from './call-service/form.tsx';
import CheckForm from './check/form.tsx';
import CompanyForm from './company/form.tsx';
import DealForm from './deal/form.tsx';
import EmailForm from './email/form.tsx';
import FieldForm from './field/form.tsx';
import HoldTimeForm from './hold-time/form.tsx';
import LookUpForm from './look-up/form.tsx';
import NoteForm from './note/form.tsx';
import SheetRowForm from './sheet-row/form.tsx';
import type { StepFormProps } from './step-form.ts';
import TagForm from './tag/form.tsx';
import TaskForm from './task/form.tsx';
import TellForm from './tell/form.tsx';
import TextForm from './text/form.tsx';
import TidyForm from './tidy/form.tsx';

type StepForm = ComponentType<StepFormProps<Record<string, unknown>>>;
/** Each form is given settings that its own kind's schema has let through. */
const form = (made: unknown) => made as StepForm;

/** The form of each kind of step. A new kind is one line here beside its line in registry.ts. */
export const stepForms: Record<string, StepForm> = {
  tidy: form(TidyForm),
  check: form(CheckForm),
  'look-up': form(LookUpForm),
  company: form(CompanyForm),
  assign: form(AssignForm),
  text: form(TextForm),
  email: form(EmailForm),
  'sheet-row': form(SheetRowForm),
  tag: form(TagForm),
  deal: form(DealForm),
  field: form(FieldForm),
  note: form(NoteForm),
  tell: form(TellForm),
  task: form(TaskForm),
  'hold-time': form(HoldTimeForm),
  'call-service': form(CallServiceForm),
};
