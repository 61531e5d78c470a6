export type { DeskEntry, DeskSettings, DeskView } from './desk-routes.ts';
export type {
  CorrectionRequest,
  DeliveryAttempt,
  DeliveryDocument,
  DeliveryEntry,
  DeliveryFault,
  MailDocument,
  MailEntry,
  OutletDocument,
  OutletRequest,
  OutletSettings,
  OutletSettingsInput,
  OutletTrial,
  ReceivedRequest,
  ReceiverMode,
  RegisterFile,
  SentContent,
} from './dispatch-schemas.ts';
export type { OperationNote } from './example-parts.ts';
export { NOTES } from './examples.ts';
export { MAX_HANDED_ON, MAX_IMPORTED, MAX_PUBLISHED_ALONG, UPLOADS_PATH } from './limits.ts';
export { DELIVERY_FAULTS, type DeliveryFaultCode, type ServerLanguage } from './messages/codes.ts';
export { describeDeliveryFault } from './messages/describe.ts';
export { SERVER_EN } from './messages/en.ts';
export { makeOpenApi } from './openapi.ts';
export { PROBLEM_STATUS, Problem, type ProblemCode, ProblemDetail } from './problem.ts';
export type { FollowedDocument, PublicIntake, PublicLinkEntry, PublicLinkSettings } from './public-link-routes.ts';
export {
  REGISTER_FACTS,
  REGISTER_ORDERS,
  type RegisterDocument,
  type RegisterEntry,
  type RegisterSettings,
  type RegisterTotals,
  type RegisterView,
  type Watching,
} from './register-schemas.ts';
export { type Access, BODY_LIMITS, PART_LIMITS, RATES, type Route } from './route.ts';
export {
  type BodyInput,
  type BodyOf,
  type ParamsOf,
  type QueryOf,
  type ResponseOf,
  ROUTES,
  type RouteName,
} from './routes.ts';
export type {
  ChoiceEntry,
  DemoMember,
  DraftDocument,
  DraftEditEntry,
  DraftEditPage,
  DraftEvent,
  FileEntry,
  FormDocument,
  HandedOnRow,
  HandOffResponse,
  HistoryEntry,
  ImportedRow,
  IntakeDocument,
  OfferedHandOffs,
  RecordDocument,
  RecordHeader,
  RelatedRecord,
  Session,
  TakenBackRow,
  Values,
  VersionSummary,
  WorkflowSummary,
} from './schemas.ts';
export { AcceptedWarning, DeliveryStatus, EditsRequest, FileName, Publication } from './schemas.ts';
export {
  FormPlace,
  UNFINISHED_LIMITS,
  type UnfinishedContent,
  type UnfinishedForm,
  type UnfinishedSummary,
} from './unfinished-routes.ts';
