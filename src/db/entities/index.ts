import { Audit, Business, Membership, Person, Session, SignInFailure } from './business.ts';
import { Connection } from './connection.ts';
import { EmailTemplate, EmailTemplateVersion, KeptFile } from './email-template.ts';
import { Consent, Lead, LeadIdentity, Touch } from './lead.ts';
import { ImportRow, LeadImport } from './lead-import.ts';
import { AskedQuestion, TrackedLink, Visit } from './message.ts';
import { BulkWork, ListMember, Mailing, NurtureList, Segment } from './nurture.ts';
import {
  CalendarEntry,
  Deal,
  Erasure,
  LeadMerge,
  LeadNote,
  LeadTag,
  LookedUp,
  Pipeline,
  Stage,
  Tag,
  Task,
  TurnTaken,
} from './record.ts';
import { Delivery, Inbound, MomentResult, NeedsYou, Run, StepResult } from './run.ts';
import { Sheet, SheetRow, SheetTab, StoredFile } from './sheet.ts';
import { Arrival, Pull, Source } from './source.ts';
import { Listening, Workflow, WorkflowVersion } from './workflow.ts';

export const entities = [
  Business,
  Person,
  Membership,
  Session,
  SignInFailure,
  Audit,
  Connection,
  Source,
  Arrival,
  Pull,
  Sheet,
  SheetTab,
  SheetRow,
  StoredFile,
  LeadImport,
  ImportRow,
  Lead,
  LeadIdentity,
  Consent,
  Touch,
  Workflow,
  WorkflowVersion,
  Listening,
  Run,
  StepResult,
  MomentResult,
  LeadNote,
  Tag,
  LeadTag,
  Task,
  CalendarEntry,
  Pipeline,
  Stage,
  Deal,
  LookedUp,
  TurnTaken,
  LeadMerge,
  Erasure,
  Delivery,
  Inbound,
  NeedsYou,
  TrackedLink,
  Visit,
  AskedQuestion,
  NurtureList,
  ListMember,
  Segment,
  BulkWork,
  Mailing,
  EmailTemplate,
  EmailTemplateVersion,
  KeptFile,
];
