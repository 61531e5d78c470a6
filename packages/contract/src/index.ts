export { NOTES, type OperationNote } from './examples.ts';
export { DELIVERY_FAULTS, type DeliveryFaultCode, type ServerLanguage } from './messages/codes.ts';
export { describeDeliveryFault } from './messages/describe.ts';
export { SERVER_EN } from './messages/en.ts';
export { makeOpenApi } from './openapi.ts';
export { PROBLEM_STATUS, Problem, type ProblemCode, ProblemDetail } from './problem.ts';
export {
  type Access,
  BODY_LIMITS,
  type BodyInput,
  type BodyOf,
  type ParamsOf,
  type QueryOf,
  RATES,
  type ResponseOf,
  ROUTES,
  type Route,
  type RouteName,
} from './routes.ts';
export type {
  ChoiceEntry,
  DeliveryEntry,
  DeliveryFault,
  DemoMember,
  DeskEntry,
  DraftDocument,
  DraftEditEntry,
  DraftEditPage,
  DraftEvent,
  FileEntry,
  FormDocument,
  HandOffResponse,
  HistoryEntry,
  IntakeDocument,
  MailDocument,
  MailEntry,
  RecordDocument,
  RecordHeader,
  Session,
  Values,
  VersionSummary,
  WorkflowSummary,
} from './schemas.ts';
export { AcceptedWarning, EditsRequest } from './schemas.ts';
