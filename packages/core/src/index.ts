export { type Decision, decide } from './decisions/compile-decision.ts';
export { type Completion, type Completions, completionsAt, type Hovered, typeAt } from './expressions/assist.ts';
export type { Environment } from './expressions/builtins/builtin.ts';
export { findBuiltin, listAllBuiltins, listBuiltinNames } from './expressions/builtins/registry.ts';
export { type CheckedExpression, checkExpression } from './expressions/check.ts';
export { compileCondition, compileExpression, type Evaluate } from './expressions/compile.ts';
export type { CompiledCondition, CompiledExpression } from './expressions/compiler.ts';
export { type Explanation, explainExpression } from './expressions/explain.ts';
export { type Frame, makeFrame } from './expressions/frame.ts';
export { describeComparison, describeOutline, type Wording } from './expressions/outline/describe.ts';
export {
  COMPARISONS,
  type Comparison,
  comparisonsFor,
  OPERANDS,
  type OutlineClause,
  type OutlineGroup,
  type OutlineItem,
  type OutlineRows,
  type OutlineSubject,
  type OutlineText,
} from './expressions/outline/outline.ts';
export { readOutline, readOutlineGroup } from './expressions/outline/read.ts';
export { writeOutline, writePath } from './expressions/outline/write.ts';
export { parseExpression, parseUnaryTests } from './expressions/parse.ts';
export { printExpression, printText, printUnaryTests } from './expressions/print.ts';
export { namesReadBy, type ReadReference, referencesOf, renameInExpression } from './expressions/rewrite.ts';
export { makeScope, type Scope, type ScopeEntry } from './expressions/scope.ts';
export { makeLiteral, type Specialised, specialiseExpression } from './expressions/specialise.ts';
export type { Node, UnaryTest } from './expressions/tree.ts';
export { LIMITS } from './expressions/tree.ts';
export { describeType, listOf, TYPES, type Type, type Typing, typing } from './expressions/types.ts';
export { type FindWorkflow, typeOfField } from './expressions/workflow-scope.ts';
export { compileWorkflow } from './flow/compile-workflow.ts';
export type { CompiledHandOff, CompiledStage, CompiledWorkflow } from './flow/compiled-workflow.ts';
export { enterInput, type HandOffInput, readEntered } from './flow/enter-input.ts';
export type {
  Acknowledged,
  Address,
  FollowUpConsequence,
  HandedOn,
  MailConsequence,
  Outcome,
  RecordEvent,
  TraceStep,
  Unassigned,
} from './flow/events.ts';
export {
  type BranchReason,
  explainCondition,
  explainFields,
  explainHandOffs,
  type FieldReason,
  type HandOffReason,
  type Reason,
  type WayReason,
} from './flow/explain-record.ts';
export { formatValue, type Style } from './flow/format-value.ts';
export { handOn } from './flow/hand-on.ts';
export { type Onlook, onlookAt, projectOnlook } from './flow/onlook.ts';
export { formatRecordNumber, openRecord } from './flow/open-record.ts';
export { mayAct, mayBegin, mayHandOn, mayRead, maySee } from './flow/permissions.ts';
export { type ProjectedForm, projectForm } from './flow/project-form.ts';
export {
  type Actor,
  type Assignee,
  type FileFacts,
  type MemberFacts,
  makeOutside,
  type Outside,
  type Reader,
  readStoredValues,
  systemValues,
  type WorkflowRecord,
  writeStoredValues,
} from './flow/record.ts';
export { brokenSignOffs, isSignRequest } from './flow/sign-off.ts';
export { collectInput } from './forms/collect-input.ts';
export type { CompiledField } from './forms/compiled-field.ts';
export { type CompiledForms, canBeEntered, type FieldStep, type StageForm } from './forms/compiled-forms.ts';
export {
  type Decided,
  decidedOf,
  effectiveValueOf,
  enterValue,
  evaluateForm,
  type Form,
  type FormInput,
} from './forms/evaluate-form.ts';
export { isReader, type Readers } from './forms/readers.ts';
export { type Issue, validateForm } from './forms/validate-form.ts';
export { describeDiagnostic, howToMend, isFault, MESSAGES, type Message } from './messages/en.ts';
export type { DecisionTable, HitPolicy } from './model/decision-table.ts';
export { applyEdit, Edit, type Edited } from './model/edit.ts';
export {
  type Field,
  type FieldType,
  isComputed,
  isEnterable,
  Option,
  type SubField,
  type TableField,
  TREATMENTS,
  Treatment,
} from './model/field.ts';
export { type FindRecord, isEmpty, type ReadContext, readFieldValue, writeFieldValue } from './model/field-value.ts';
export type { Acknowledgement, Adjustment, Branch, Check, Delivery, FollowUp, HandOff, Stage } from './model/flow.ts';
export {
  destinationsOf,
  findField,
  findHandOff,
  findSection,
  findStage,
  findSubField,
  handOffsFrom,
  plannedTreatment,
} from './model/lookup.ts';
export { parseWorkflow, readWorkflow } from './model/read-workflow.ts';
export {
  FORMAT,
  openStoredWorkflow,
  type Role,
  type Section,
  type Track,
  Workflow,
  workflowJsonSchema,
  writeWorkflow,
} from './model/workflow.ts';
export type { Diagnostic, DiagnosticCode, DiagnosticParams, Span } from './shared/diagnostic.ts';
export { diagnostic } from './shared/diagnostic.ts';
export { KEY_PATTERN, Key, RESERVED_KEYS } from './shared/identifiers.ts';
export type { Json } from './shared/json.ts';
export { failure, type Result, success } from './shared/result.ts';
export { findSuggestion } from './shared/suggestion.ts';
export { isWellFormed } from './shared/well-formed.ts';
export {
  addExact,
  compareExact,
  type Exact,
  exactInteger,
  multiplyExact,
  readExact,
  roundExact,
  subtractExact,
  writeExact,
  writeFixed,
} from './values/exact.ts';
export { isMailAddress } from './values/mail-address.ts';
export {
  type DateTimeValue,
  type DateValue,
  isZone,
  readDate,
  readDateTime,
  readDuration,
  readTime,
  type TimeValue,
  wallClockOf,
  writeDate,
  writeDateTime,
  writeInstant,
  writeTime,
  writeWallClock,
} from './values/temporal.ts';
export { writeText } from './values/text.ts';
export { type ContextValue, compareValues, equalValues, isList, type Truth, type Value } from './values/value.ts';
