import type { Diagnostic, DiagnosticParams } from '../shared/diagnostic.ts';

/**
 * A sentence for a person, and how to mend what it says. `{name}` is filled in from the diagnostic's parameters. A warning
 * about a design can be accepted with a reason; everything else stands in the way.
 */
export type Message = { readonly text: string; readonly mend: string; readonly level?: 'warning' };

/** Every code of the core. Stable, never reused; `docs/errors.md` is made from this table. */
export const MESSAGES = {
  'expression/too-long': {
    text: 'The expression is longer than {limit} characters.',
    mend: 'Split it: give a part of it to a computed field.',
  },
  'expression/too-deep': {
    text: 'The expression is nested more than {limit} deep.',
    mend: 'Give an inner part to a computed field.',
  },
  'expression/too-large': { text: 'The expression has more than {limit} parts.', mend: 'Split it, or use a decision table.' },
  'expression/ends-early': { text: 'The expression ends where {expected} should follow.', mend: 'Complete it.' },
  'expression/unexpected': { text: '“{found}” stands where {expected} should.', mend: 'Correct the text at the marked place.' },
  'expression/unknown-character': { text: '“{found}” has no meaning here.', mend: 'Remove it. Texts stand in double quotes.' },
  'expression/open-text': { text: 'A text has no closing quote.', mend: 'Add the closing double quote.' },
  'expression/open-comment': { text: 'A comment is not closed.', mend: 'Add */ after it.' },
  'expression/bad-escape': {
    text: '“{found}” is no escape in a text.',
    mend: 'Write \\\\ for a backslash; \\n, \\t, \\" and \\u0041 are known.',
  },
  'expression/bad-number': { text: '“{found}” is not a number.', mend: 'Write digits with a point, such as 1250.5.' },
  'expression/bad-temporal': {
    text: '“{found}” is no date, time or duration.',
    mend: 'Write "2027-03-12", "09:30:00", "2027-03-12T09:30:00", "P3D" or "P1Y6M".',
  },
  'expression/left-out': { text: 'The language here has no {what}.', mend: 'See docs/expressions.md for what there is.' },
  'expression/not-a-function': {
    text: '“{found}” can’t be called.',
    mend: 'Remove the brackets, or use the name of a function.',
  },
  'expression/unknown-function': {
    text: 'There is no function “{found}”.',
    mend: 'See docs/expressions.md for the functions there are.',
  },
  'expression/unknown-function-near': {
    text: 'There is no function “{found}”. Did you mean “{suggestion}”?',
    mend: 'Use the suggested name.',
  },
  'expression/unknown-name': { text: 'Nothing is called “{found}”.', mend: 'Use the key of a field, or add the field.' },
  'expression/unknown-name-near': {
    text: 'Nothing is called “{found}”. Did you mean “{suggestion}”?',
    mend: 'Use the suggested key.',
  },
  'expression/unknown-part': { text: 'There is no “{found}” here; there is {known}.', mend: 'Use one of the named parts.' },
  'expression/unknown-part-near': {
    text: 'There is no “{found}” here. Did you mean “{suggestion}”?',
    mend: 'Use the suggested name.',
  },
  'expression/captured': {
    text: 'Here “{found}” would be read as a part of the filtered rows.',
    mend: 'Choose another key, or rewrite the filter with “some … satisfies”.',
  },
  'expression/no-parts': { text: '{type} has no part “{found}”.', mend: 'Remove what follows the point.' },
  'expression/operand': { text: '“{operator}” needs {expected}, and this is {found}.', mend: 'Use a value of the right kind.' },
  'expression/operands': {
    text: '“{operator}” isn’t defined between {left} and {right}.',
    mend: 'Convert one side, for example with string() or number().',
  },
  'expression/not-comparable': { text: '“{operator}” can’t compare {left} with {right}.', mend: 'Compare values of one kind.' },
  'expression/unknown-option': {
    text: '“{found}” is none of the options; they are {known}.',
    mend: 'Use the code of an option.',
  },
  'expression/unknown-option-near': {
    text: '“{found}” is none of the options. Did you mean “{suggestion}”?',
    mend: 'Use the suggested code.',
  },
  'expression/not-a-condition': { text: 'A condition is needed here, and this is {found}.', mend: 'Compare it with something.' },
  'expression/not-a-list': {
    text: 'A list is needed here, and this is {found}.',
    mend: 'Use a table field, a multi-choice or a list.',
  },
  'expression/branches-differ': {
    text: '“then” gives {then} and “else” gives {otherwise}.',
    mend: 'Let both give the same kind of value.',
  },
  'expression/argument': {
    text: '“{parameter}” of {function}() must be {expected}, and this is {found}.',
    mend: 'Give a value of the right kind.',
  },
  'expression/arguments': {
    text: '{function}() is not called like this. It is called as {forms}.',
    mend: 'Give the arguments it takes.',
  },
  'expression/wrong-result': {
    text: 'This must give {expected}, and it gives {found}.',
    mend: 'Change the expression, or the type of the field.',
  },
  'expression/other-language': { text: '“{found}” is written in other languages.', mend: 'Write {instead} here.' },
  'expression/bad-pattern': {
    text: '“{found}” is no regular expression that can be used.',
    mend: 'Correct it. There are no look-around and no back references, and at most 500 characters.',
  },
  'expression/bad-replacement': {
    text: '“{found}” can’t be used as a replacement.',
    mend: 'Write $1 for a group, \\$ for a dollar sign and \\\\ for a backslash.',
  },
  'expression/never-null': {
    text: 'A table is never null: without rows it is the empty list, so that “{operator} null” can’t say anything of it.',
    mend: 'Write count(…) = 0 for a table without rows.',
  },
  'expression/currencies': {
    text: '“{operator}” can’t take amounts in {currencies} together.',
    mend: 'Convert one of them first, by multiplying it with a rate.',
  },
  'expression/not-an-option': {
    text: 'This can be a text that is none of the options; they are {known}.',
    mend: 'Give options only: as texts in quotes, from a choice with the same codes, or from a decision table that lists its values.',
  },
  'expression/too-much-work': {
    text: 'This expression takes more than {limit} steps for these values, so it was given up.',
    mend: 'Tell the analyst: loops within loops over many rows should be split, or given to computed fields.',
  },
  'decision/one-output': {
    text: '“{table}” has several outputs; {policy} takes one.',
    mend: 'Give the table one output, or collect with C.',
  },
  'decision/aggregate': {
    text: '{policy} of “{table}” can’t be made of “{output}”; it takes {types}.',
    mend: 'Change the hit policy or the type of the output.',
  },
  'decision/no-priorities': {
    text: '{policy} of “{table}” needs to know which outputs go first, and no output lists its values.',
    mend: 'List the values of an output in order of priority.',
  },
  'template/open': { text: 'A “{{” is never closed.', mend: 'Add }} after the expression.' },
  'field/limits-cross': {
    text: 'No value of {field} can be at least {low} and at most {high}.',
    mend: 'Let the lower limit not be above the upper one.',
  },
  'field/no-such-day': { text: '{field} has the limit {found}, and there is no such day.', mend: 'Write a day of the calendar.' },
  'field/bad-pattern': {
    text: 'The pattern of {field} can’t be used: “{found}”.',
    mend: 'Correct it. There are no look-around and no back references.',
  },
  'field/code-form': {
    text: 'The code “{code}” of {field} would never equal an entered one.',
    mend: 'Write it in Unicode’s NFC form, without spaces at its ends.',
  },
  'set/computed': { text: '{field} is computed and can’t be set.', mend: 'Set a field that its expression reads.' },
  'set/note': { text: '{field} is a note and has no value.', mend: 'Set another field.' },
  'set/beyond-limits': { text: '{field} is set to a value outside its limits.', mend: 'Set a value that it may have.' },
  'set/retired-option': {
    text: '{field} is set to “{option}”, which is no longer offered.',
    mend: 'Set another option, or accept it with a reason.',
    level: 'warning',
  },
  'set/rounded': {
    text: 'What is set can have more than {scale} decimal places; {field} keeps {scale}, and the rest is rounded half to even.',
    mend: 'Round it in the expression, with decimal(…, {scale}), or accept it with a reason.',
    level: 'warning',
  },
  'readers/leak': {
    text: '{field} would get a value made from {sources}, and not everybody who reads it may read that.',
    mend: 'Give the field the same readers, or say that it discloses what it is made from.',
  },
  'readers/discloses': {
    text: '{field} shows what is made from {sources} to people who may not read that.',
    mend: 'Give the field the same readers, or accept it with a reason.',
    level: 'warning',
  },
  'readers/withheld': {
    text: 'A value made from {sources} stays empty here: {who} may not read it.',
    mend: 'Take it out, send it to its readers alone, or accept it with a reason.',
    level: 'warning',
  },
  'readers/searchable': {
    text: 'At {stage} somebody who tries values of {entered} could find out {fields}, which may not be read there.',
    mend: 'Decide it at a stage where it may be read, or accept it with a reason.',
    level: 'warning',
  },
  'form/cycle': { text: 'These depend on each other in a circle: {names}.', mend: 'Let one of them stop reading the others.' },
  'form/required': { text: '{field} is required.', mend: 'Fill it in.' },
  'form/too-long': { text: '{field} has {length} characters; at most {limit} are allowed.', mend: 'Shorten it.' },
  'form/too-short': { text: '{field} has {length} characters; at least {limit} are needed.', mend: 'Write more.' },
  'form/pattern': { text: '{field} is not written as it should be.', mend: 'Follow the form the field asks for.' },
  'form/below': { text: '{field} must be at least {limit}.', mend: 'Enter a greater number.' },
  'form/above': { text: '{field} must be at most {limit}.', mend: 'Enter a smaller number.' },
  'form/scale': { text: '{field} takes at most {scale} decimal places.', mend: 'Round the number.' },
  'form/before': { text: '{field} must not be before {limit}.', mend: 'Choose a later date.' },
  'form/after': { text: '{field} must not be after {limit}.', mend: 'Choose an earlier date.' },
  'form/unknown-option': { text: '{field} has an option that isn’t offered.', mend: 'Choose one of the options.' },
  'form/retired-option': { text: '{field} has an option that is no longer offered.', mend: 'Choose another option.' },
  'form/too-many-files': { text: '{field} takes at most {limit} files.', mend: 'Remove some.' },
  'form/file-too-large': { text: 'A file in {field} is larger than {limit} bytes.', mend: 'Use a smaller file.' },
  'form/too-few-rows': { text: '{field} needs at least {limit} rows.', mend: 'Add rows.' },
  'form/too-many-rows': { text: '{field} takes at most {limit} rows.', mend: 'Remove rows.' },
  'form/check': { text: 'The check “{check}” does not hold.', mend: 'Change the values it reads.' },
  'value/wrong-type': { text: 'This must be {expected}.', mend: 'Send a value of the field’s type.' },
  'value/too-long': { text: 'This is too long: {expected}.', mend: 'Shorten it.' },
  'value/too-many-rows': { text: 'Too many rows: {expected}.', mend: 'Split the record.' },
  'value/unknown-field': { text: 'There is no such sub-field; this must be {expected}.', mend: 'Remove it.' },
  'value/unknown-member': { text: '{field} names nobody of the workspace.', mend: 'Choose a member.' },
  'value/member-role': {
    text: '{field} names somebody without the role {role}.',
    mend: 'Choose a member who has the role.',
  },
  'value/unknown-record': { text: '{field} names no record that you may see.', mend: 'Choose a record.' },
  'value/unknown-file': { text: '{field} names a file that wasn’t handed over.', mend: 'Hand the file over first.' },
  'hand-off/not-here': {
    text: 'The record isn’t where “{handOff}” is offered. It may have moved on.',
    mend: 'Load the record again.',
  },
  'hand-off/not-allowed': {
    text: 'You may not press “{handOff}” on this record.',
    mend: 'Ask whoever has the record, or an administrator for the role.',
  },
  'hand-off/not-offered': {
    text: '“{handOff}” is not offered for this record now.',
    mend: 'Choose another hand-off, or change what its condition reads.',
  },
  'hand-off/unknown-field': { text: 'The workflow has no field “{field}”.', mend: 'Remove it, or correct its key.' },
  'hand-off/may-not-enter': { text: '{field} can’t be entered here.', mend: 'Remove it from what is sent.' },
  'hand-off/no-branch': {
    text: 'No branch of “{handOff}” takes these values of {fields}.',
    mend: 'Tell the analyst: the hand-off needs a branch for them, or an otherwise.',
  },
  'hand-off/no-branch-at-all': {
    text: 'No branch of “{handOff}” takes this record.',
    mend: 'Tell the analyst: the hand-off needs another branch, or an otherwise.',
  },
  'hand-off/set-unfit': {
    text: '“{handOff}” sets {field} to something it can’t hold: it must be {expected}.',
    mend: 'Tell the analyst.',
  },
  'hand-off/two-branches': {
    text: 'Several branches of “{handOff}” hold at once: {branches}.',
    mend: 'Tell the analyst: just one of them may hold.',
  },
  'hand-off/endless-junctions': { text: '“{handOff}” passes junctions without end.', mend: 'Tell the analyst.' },
  'hand-off/leads-nowhere': { text: '“{handOff}” leads to no stage.', mend: 'Tell the analyst.' },
  'workflow/shape': {
    text: 'The definition isn’t well formed here: {detail}',
    mend: 'Compare the file with the JSON Schema at /api/schemas/workflow.json.',
  },
  'workflow/duplicate-key': { text: 'The key “{key}” is used twice.', mend: 'Give one of them another key.' },
  'workflow/unknown-key': { text: 'There is no {what} “{key}”.', mend: 'Use an existing key, or add it.' },
  'workflow/unknown-key-near': {
    text: 'There is no {what} “{key}”. Did you mean “{suggestion}”?',
    mend: 'Use the suggested key.',
  },
  'workflow/no-intake': { text: 'No stage is an intake: no record could begin.', mend: 'Make the first stage an intake.' },
  'workflow/leads-nowhere': { text: '“{handOff}” leads to no other stage.', mend: 'Add a branch, or an otherwise.' },
  'workflow/junction-hand-off': {
    text: 'The junction “{stage}” needs exactly one hand-off.',
    mend: 'Let one hand-off with branches leave it.',
  },
  'workflow/junction-part': {
    text: 'Nobody stops at the junction “{stage}”, so its {part} would say nothing.',
    mend: 'Remove it, or make the junction a work stage.',
  },
  'workflow/end-assignment': {
    text: 'Nobody works at the end “{stage}”, so its assignment would say nothing.',
    mend: 'Remove it.',
  },
  'workflow/two-defaults': {
    text: '“{handOff}” has several acknowledgements without a condition; only the first is ever shown.',
    mend: 'Give all but one a condition, or remove them.',
    level: 'warning',
  },
  'workflow/end-hand-off': { text: 'The end “{stage}” has a hand-off.', mend: 'Make it a work stage, or remove the hand-off.' },
  'workflow/decision-rule-width': {
    text: 'Rule {rule} of “{table}” has not as many cells as the table has inputs and outputs.',
    mend: 'Give it a cell for each; - takes everything.',
  },
  'edit/unknown-target': { text: 'There is no “{target}” to change.', mend: 'Load the draft again.' },
} as const satisfies Record<string, Message>;

export type CoreCode = keyof typeof MESSAGES;

/** Whether a diagnostic of a design stands in the way of publishing it; else it is a warning. */
export const isFault = ({ code }: Pick<Diagnostic, 'code'>): boolean =>
  !isCoreCode(code) || (MESSAGES[code] as Message).level !== 'warning';

const isCoreCode = (code: string): code is CoreCode => Object.hasOwn(MESSAGES, code);

/** Fills a message's placeholders; lists are joined with commas. */
export function fillMessage(text: string, params: DiagnosticParams): string {
  return text.replace(/\{(\w+)\}/g, (whole, name: string) => {
    const value = Object.hasOwn(params, name) ? params[name] : undefined;
    if (value === undefined) return whole;
    return typeof value === 'object' ? value.slice(0, 12).join(', ') : String(value);
  });
}

/** A diagnostic as a sentence. The analyst's own message, where an issue has one, comes before this. */
export const describeDiagnostic = ({ code, params }: Diagnostic): string =>
  isCoreCode(code) ? fillMessage(MESSAGES[code].text, params) : code;

/** How to mend it. */
export const howToMend = ({ code }: Diagnostic): string => (isCoreCode(code) ? MESSAGES[code].mend : '');
