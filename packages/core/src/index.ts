export { loadPatternEngine } from '#pattern-engine';
export { type Atom, atomsOf, type Extent } from './analysis/atoms.ts';
export { constantIn, constantsBeside } from './analysis/constants.ts';
export { type OutlineContext, subjectText } from './analysis/cut-outline.ts';
export { type Reach, reachOf } from './analysis/reach.ts';
export { type Remark, remarksOn } from './analysis/remarks.ts';
export {
  type Axes,
  type Axis,
  axisOf,
  type Basis,
  fieldsRead,
  joinWays,
  rowsOf,
  type Way,
  type WhichWay,
  wayOf,
  waysAlong,
  whichWay,
} from './analysis/which-way.ts';
export { type Decision, decide } from './decisions/compile-decision.ts';
export { type TriedDecision, tryDecision, typingsOfInputs } from './decisions/try-decision.ts';
export { applyEdit, type Edited } from './edits/apply-edit.ts';
export type { EditContext, EditSentence } from './edits/edit.ts';
export { followRenames } from './edits/follow-renames.ts';
export type { RenameKey } from './edits/keys/rename-key.ts';
export { nameOfPart, partAround, termOfPart } from './edits/naming.ts';
export { type Deletion, foreseeDeletion } from './edits/parts/delete-part.ts';
export { type IdentifiedEdit, type Rebased, rebaseEdits, renamesIn } from './edits/rebase.ts';
export { EDIT_KINDS, Edit, type SingleEdit } from './edits/registry.ts';
export { tellDifference } from './edits/tell-difference.ts';
export { makeReadIn, type ReadInSource } from './edits/whole/read-in.ts';
export { type Completion, type Completions, completionsAt, type Hovered, typeAt } from './expressions/assist.ts';
export type { Environment } from './expressions/builtins/builtin.ts';
export { findBuiltin, listAllBuiltins, listBuiltinNames } from './expressions/builtins/registry.ts';
export { type CheckedExpression, checkExpression } from './expressions/check.ts';
export { compileCondition, compileExpression, type Evaluate } from './expressions/compile.ts';
export { CompilationMemory, type CompiledCondition, type CompiledExpression } from './expressions/compiler.ts';
export { type ConditionProgram, runProgram } from './expressions/condition-program.ts';
export { type Explanation, explainExpression } from './expressions/explain.ts';
export { type Frame, makeFrame } from './expressions/frame.ts';
export {
  addItem,
  insertItem,
  itemAt,
  itemsOf,
  type MovedItem,
  moveBy,
  moveIn,
  moveItem,
  moveOut,
  negateItem,
  type OutlinePath,
  replaceItem,
  unwrapItem,
  wrapItem,
} from './expressions/outline/edit-outline.ts';
export { type ExplainedItem, explainOutline, type ReadValue } from './expressions/outline/explain-outline.ts';
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
export { type OutlineJson, readOutlineJson, writeOutlineJson } from './expressions/outline/outline-json.ts';
export { pathOf, readOutline, readOutlineGroup } from './expressions/outline/read.ts';
export { writeOutline, writePath, writeSubject } from './expressions/outline/write.ts';
export { parseExpression, parseUnaryTests } from './expressions/parse.ts';
export { layOutExpression, printExpression, printText, printUnaryTests } from './expressions/print.ts';
export {
  findRenames,
  namesReadBy,
  type ReadReference,
  type Replacement,
  referencesOf,
  replaceIn,
} from './expressions/rewrite.ts';
export { makeScope, type Scope, type ScopeEntry } from './expressions/scope.ts';
export { makeLiteral, type Specialised, specialiseExpression } from './expressions/specialise.ts';
export { childrenOf, LIMITS, type Node, type UnaryTest } from './expressions/tree.ts';
export { isAssignable, listOf, TYPES, type Type, type Typing, termOfType, typing } from './expressions/types.ts';
export { type FindWorkflow, typeOfField } from './expressions/workflow-scope.ts';
export { aboutRecord } from './flow/about.ts';
export { checkSurroundings, deliveriesOf, type Surroundings } from './flow/check-consequences.ts';
export { MAX_OPENING_DEPTH, type Openings, openingsOf } from './flow/check-openings.ts';
export { type ClockMoment, clockMoments, type Reminded, remind } from './flow/clock.ts';
export { compileWorkflow, type ExaminedWorkflow } from './flow/compile-workflow.ts';
export type {
  CompiledDelivery,
  CompiledHandOff,
  CompiledReminder,
  CompiledStage,
  CompiledWorkflow,
} from './flow/compiled-workflow.ts';
export { dueInstant, offsetFrom } from './flow/due.ts';
export { enterFollowUp, type Opened, type Opening } from './flow/enter-follow-up.ts';
export { enterInput, type FilledForm, fillForm, type HandOffInput, readEntered, readEnteredSoFar } from './flow/enter-input.ts';
export type {
  Acknowledged,
  Address,
  DeliveryConsequence,
  FileConsequence,
  FollowUpConsequence,
  HandedOn,
  MailConsequence,
  Outcome,
  RecordEvent,
  RefreshConsequence,
  SentFile,
  TraceStep,
  Unassigned,
  WebConsequence,
  Written,
} from './flow/events.ts';
export { EVENT_TYPES } from './flow/events.ts';
export {
  type BranchReason,
  explainFields,
  explainHandOffs,
  type FieldReason,
  type HandOffReason,
  type WayReason,
} from './flow/explain-record.ts';
export { handOn, offeredHandOffs } from './flow/hand-on.ts';
export { type Onlook, onlookAt, projectOnlook, writeOnlook } from './flow/onlook.ts';
export { blankRecord, formatRecordNumber, openRecord } from './flow/open-record.ts';
export { checkAcknowledgement, fillAcknowledgement } from './flow/own-acknowledgement.ts';
export { mayAct, mayBegin, mayHandOn, mayRead, maySee, readsEverything, registerRightOf } from './flow/permissions.ts';
export { mayGiveBack, mayHandOver, mayTake, type Possessed, type Possession, possess } from './flow/possess.ts';
export { prepareWorkflow } from './flow/prepare-workflow.ts';
export { type ProjectedForm, projectForm } from './flow/project-form.ts';
export {
  type Actor,
  type Assignee,
  type Candidate,
  CLOCK,
  defaultsDue,
  type FileFacts,
  type MemberFacts,
  makeOutside,
  memberOf,
  type Outside,
  type Reader,
  readStoredValues,
  systemValues,
  type WorkflowRecord,
} from './flow/record.ts';
export { type Refreshed, refreshRecord } from './flow/refresh.ts';
export { projectDesk, projectRegister, type Register, registerScope } from './flow/register.ts';
export { certainNext, type Route, routeOf } from './flow/route.ts';
export { type Previewing, previewDelivery } from './flow/send-out.ts';
export { fieldToOutside, quotedCell, unquotedCell, writeCell } from './flow/shown-values.ts';
export { brokenSignOffs, isSignRequest } from './flow/sign-off.ts';
export { type AnswerTaken, canBeAnswered, takeAnswer } from './flow/take-answer.ts';
export { explainCondition, type Reason } from './flow/trace.ts';
export { collectInput } from './forms/collect-input.ts';
export type { CompiledField } from './forms/compiled-field.ts';
export { type CompiledForms, canBeEntered, type FieldStep, type Placement, type StageForm } from './forms/compiled-forms.ts';
export {
  clearedFields,
  type Decided,
  decidedOf,
  effectiveValueOf,
  enterValue,
  evaluateForm,
  type Form,
  type FormInput,
} from './forms/evaluate-form.ts';
export { isReader, type Readers } from './forms/readers.ts';
export { newRowCells, totalOf } from './forms/rows.ts';
export { fitsPattern, type Issue, validateForm } from './forms/validate-form.ts';
export { type DayStyle, readLocalDay, writeLocalDay } from './local/days.ts';
export { dateFormat } from './local/formats.ts';
export { type MomentStyle, readLocalClock, readLocalMoment, writeLocalClock, writeLocalMoment } from './local/moments.ts';
export {
  type NumberStyle,
  numberMarks,
  readLocalCount,
  readLocalNumber,
  writeLocalAmount,
  writeLocalNumber,
} from './local/numbers.ts';
export { mapReading, onlyValue, type Reading, type WhyUnread } from './local/reading.ts';
export { readLocalTime, writeLocalTime } from './local/times.ts';
export type { Language, Message } from './messages/codes.ts';
export {
  describeBuiltin,
  describeDiagnostic,
  describeEdit,
  describeEvent,
  describeTerm,
  describeType,
  fill,
  howToMend,
  type NamedEvent,
} from './messages/describe.ts';
export {
  describeComparison,
  describeExpression,
  describeOutline,
  describeSubject,
  type Phrase,
  phrasesOf,
} from './messages/describe-outline.ts';
export { EN } from './messages/en.ts';
export { makeWording, type Wording } from './messages/wording.ts';
export { defaultOf, expressionOf, isComputed } from './model/computed.ts';
export type {
  Acknowledgement,
  Delivery,
  FileDelivery,
  FollowUp,
  MailDelivery,
  Recipient,
  WebDelivery,
} from './model/consequence.ts';
export { type DecisionRule, type DecisionTable, HIT_POLICIES, type HitPolicy } from './model/decision-table.ts';
export {
  type Field,
  type FieldType,
  LIMITED,
  type Limited,
  Option,
  type SubField,
  type TableField,
  Treatment,
} from './model/field.ts';
export { FIELD_PATH_PATTERN, type FieldPath, fieldPath, splitFieldPath } from './model/field-path.ts';
export { type FindRecord, isEmpty, type ReadContext, readFieldValue, writeFieldValue } from './model/field-value.ts';
export { isOfKind, termOfFileKind } from './model/file-kind.ts';
export type { Adjustment, Branch, ByClock, Check, HandOff, Offset, Reminder, Stage } from './model/flow.ts';
export { FORMAT } from './model/format.ts';
export { KeptTest, TestStep } from './model/kept-test.ts';
export { Key } from './model/keys.ts';
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
export { makeCode, makeKey } from './model/make-key.ts';
export { checksPatterns, decidesByPatterns } from './model/mentions-patterns.ts';
export { joinPath, type Path, splitPath, within } from './model/path.ts';
export { parseWorkflow, readWorkflow, termOfIssue } from './model/read-workflow.ts';
export type { SetValue } from './model/set-value.ts';
export { openStoredWorkflow } from './model/stored.ts';
export { isEnterable, TREATMENTS } from './model/treatment.ts';
export { isUnreadText, makeUnreadText, type UnreadText } from './model/unread-text.ts';
export { mapDefinition, mapExpressions, tablesAdjusted, walkDefinition } from './model/walk.ts';
export {
  REGISTER_RIGHTS,
  type RegisterRight,
  type Role,
  type Section,
  type Track,
  Workflow,
  workflowJsonSchema,
  writeWorkflow,
} from './model/workflow.ts';
export { compareOutcomes, expectationsOf, type OutcomeDifference, runTest, type TestRun } from './rehearsal/expectations.ts';
export { drawFrom, type Generated, generateEntries } from './rehearsal/generate.ts';
export {
  actorIn,
  beginScript,
  type Moment,
  newScript,
  outsideOn,
  type RehearsalWorld,
  type Replay,
  replay,
  type Script,
  type ScriptStep,
} from './rehearsal/replay.ts';
export { type Source, withSource } from './rehearsal/source.ts';
export { DIAGNOSTIC_CODES, isFault } from './shared/codes.ts';
export {
  type Diagnostic,
  type DiagnosticCode,
  type DiagnosticParams,
  diagnostic,
  type Span,
} from './shared/diagnostic.ts';
export { KEY_PATTERN, RESERVED_KEYS } from './shared/identifiers.ts';
export type { Json } from './shared/json.ts';
export { failure, type Result, success } from './shared/result.ts';
export { findSuggestion } from './shared/suggestion.ts';
export { type Term, term } from './shared/terms.ts';
export { isWellFormed } from './shared/well-formed.ts';
export { applyDifferences, type Difference, differencesBetween } from './structure/differences.ts';
export { workflowsNamedBy } from './structure/named-workflows.ts';
export { findList, findPart } from './structure/places.ts';
export { makeReferences, type References, type Use } from './structure/references.ts';
export { fieldAt, isWithin, readAtStages, stagesByPart, type UsedParts, usedPartsOf, usersOf } from './structure/used-parts.ts';
export { type CompiledTemplate, compileLine, compileTemplate, type TemplateScope } from './templates/compile-template.ts';
export { type Filling, fillLine, fillTemplate } from './templates/fill-template.ts';
export { formatValue, formatYesNo, type Style } from './templates/format-value.ts';
export {
  type Block,
  expressionsIn,
  type Inline,
  parseLine,
  parseTemplate,
  type TemplateExpression,
  tableOfRows,
} from './templates/parse-template.ts';
export { isTypedField, type ReadStyle, readValue, type TypedField, writeTypedValue } from './templates/read-value.ts';
export {
  type FieldEntry,
  type RichBlock,
  type RichText,
  type Run,
  readRich,
  writeHtml,
  writePlain,
} from './templates/rich-text.ts';
export {
  addExact,
  compareExact,
  type Exact,
  exactInteger,
  multiplyExact,
  negateExact,
  readExact,
  roundExact,
  subtractExact,
  writeExact,
  writeFixed,
} from './values/exact.ts';
export { isConnectionHeader } from './values/http-headers.ts';
export { isMailAddress } from './values/mail-address.ts';
export { isAllowedPage, NEXT_PAGE_PATTERN } from './values/next-page.ts';
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
export {
  addWorkingDays,
  CalendarSettings,
  makeCalendar,
  ORDINARY_CALENDAR,
  WEEKDAYS,
  type Weekday,
  type WorkingCalendar,
} from './values/working-calendar.ts';
export { findProperty, toOutsideJson, writeOutsideJson } from './values/write-json.ts';
