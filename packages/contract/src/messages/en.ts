import type { ServerLanguage } from './codes.ts';

/** English. Another language is another file like this one. */
export const SERVER_EN: ServerLanguage = {
  problems: {
    'request/malformed': { title: 'The request can’t be read.', mend: 'Send well-formed JSON with the right media type.' },
    'request/invalid': { title: 'The request doesn’t have the shape it should.', mend: 'Compare it with /api/openapi.json.' },
    'request/too-large': { title: 'The request is too large.', mend: 'Send less at once.' },
    'request/too-many': {
      title: 'Too many requests in a short time.',
      mend: 'Wait as long as Retry-After says, then try again.',
    },
    'request/bad-address': { title: 'The address can’t be read.', mend: 'Correct its percent signs and characters.' },
    'request/unfit-text': {
      title: 'A text holds a character that can’t be kept.',
      mend: 'Remove U+0000 and halves of characters.',
    },
    'request/wrong-host': {
      title: 'The request names another host.',
      mend: 'Use the application’s own address; whoever runs the server sets it as YPOMET_ADDRESS.',
    },
    'request/foreign-origin': { title: 'The request comes from another site.', mend: 'Use the application’s own address.' },
    'request/unsupported-media-type': { title: 'The media type isn’t taken.', mend: 'Send application/json.' },
    'request/idempotency-mismatch': {
      title: 'This idempotency key was used for another request.',
      mend: 'Use a new key for a new request.',
    },
    'session/none': { title: 'You are not signed in.', mend: 'Sign in.' },
    'session/wrong-credentials': { title: 'The e-mail address or the password is wrong.', mend: 'Check both and try again.' },
    'session/forbidden': { title: 'Your roles don’t allow this.', mend: 'Ask an administrator for the role.' },
    'thing/not-found': { title: 'There is nothing here that you may see.', mend: 'Check the address.' },
    'revision/missing': {
      title: 'The revision you are changing isn’t named.',
      mend: 'Send If-Match with the revision you read.',
    },
    'revision/stale': { title: 'It has changed since you read it.', mend: 'Load it again, then repeat your change.' },
    'workflow/invalid': { title: 'The definition has faults.', mend: 'Mend what is listed.' },
    'workflow/warnings': {
      title: 'The definition has warnings that nobody accepted.',
      mend: 'Mend what is listed, or accept each with a reason.',
    },
    'workflow/exists': {
      title: 'A workflow with this key exists.',
      mend: 'Give it another key, or replace the draft of the existing one.',
    },
    'take-back/too-late': {
      title: 'It can’t be taken back any more.',
      mend: 'Something of it was sent, it opened other records, others went on with it, or it was long ago. Hand it back by what its stage offers.',
    },
    'confirmation/over': {
      title: 'This can’t be confirmed any more.',
      mend: 'The address may have been cut off when it was copied, or a week has passed. Hand in again to be asked anew.',
    },
    'workflow/not-published': { title: 'The workflow has no published version.', mend: 'Publish it first.' },
    'edit/refused': { title: 'The change can’t be made.', mend: 'Mend what is listed.' },
    'hand-off/refused': { title: 'The record can’t be handed on yet.', mend: 'Mend what is listed.' },
    'register/filter': {
      title: 'The register can’t be filtered or ordered like this.',
      mend: 'Mend what is listed: the fields that it can be searched by are named with the register.',
    },
    'register/too-much-work': {
      title: 'The filter or search takes too long.',
      mend: 'Narrow it: to a stage, to newer records, or to fewer rows of tables within each other.',
    },
    'delivery/not-waiting': { title: 'The delivery isn’t waiting for a person.', mend: 'Load the list again.' },
    'outlet/other-kind': { title: 'An outlet of another kind has this key.', mend: 'Choose another key.' },
    'outlet/in-use': {
      title: 'The outlet is in use.',
      mend: 'Let the workflows that name it send by another, and try or settle what waits at it.',
    },
    'unfinished/too-many': {
      title: 'You have more unfinished forms than can be kept.',
      mend: 'Hand some on, or give them up on your desk.',
    },
    'upload/too-many': {
      title: 'Too many files are under way.',
      mend: 'Let those that are under way come to an end, or stop them.',
    },
    'upload/offset': {
      title: 'The part doesn’t follow on what came before.',
      mend: 'Ask with HEAD how much of the file is here, and go on from there.',
    },
    'server/no-room': {
      title: 'The server’s disk has no room now.',
      mend: 'Tell whoever runs the server that its disk is full. What you entered is still on this page; try again later.',
    },
    'file/empty': { title: 'The file is empty.', mend: 'Choose one that holds something.' },
    'file/other-content': {
      title: 'The file holds something else than its name says.',
      mend: 'Give it a name that says what it holds.',
    },
    'file/turned-name': {
      title:
        'The name of the file holds hidden marks that turn the direction of its letters, so that it looks like another name.',
      mend: 'Give the file a new name, typed letter by letter, and hand it over again.',
    },
    'import/none-named': {
      title: 'Nothing that can be chosen here is called so.',
      mend: 'Write a member’s whole name or mail address, or a record’s number, as they are chosen by hand.',
    },
    'import/several-named': {
      title: 'Several members are called so.',
      mend: 'Write the mail address of the one that is meant.',
    },
    'link/unfit': { title: 'The public link can’t be like this.', mend: 'Mend what is listed.' },
    'link/shut': {
      title: 'Nothing can be handed in here now.',
      mend: 'What you entered is still here. Ask whoever gave you the address.',
    },
    'link/used': {
      title: 'This form was handed in already.',
      mend: 'Open the address once more to hand in another one.',
    },
    'link/looks-automatic': {
      title: 'This looks as if a program had filled it in.',
      mend: 'Wait a few seconds, then press the button again.',
    },
    'server/busy': { title: 'The server can’t do this now.', mend: 'Nothing was changed. Try again as Retry-After says.' },
    'server/outcome-unknown': {
      title: 'It isn’t known whether this was done: the database was lost on the way.',
      mend: 'Ask again with the same idempotency key: it is done once, whatever happened.',
    },
    'server/fault': {
      title: 'Something went wrong on the server.',
      mend: 'Look whether it was done; if not, try again. If it stays, tell an administrator the time.',
    },
  },
  details: {
    'opens-too-deep': 'It would open records that open others more than 8 deep. Tell the analyst.',
    'not-ordered': 'The register isn’t ordered by this.',
    'no-column': 'The register has no column “{column}”.',
    'one-workflow': 'A condition is over the records of one workflow: choose one first.',
    'looks-at':
      'It would look at about {rows} rows of tables. Narrow it: to a stage, to newer records, or to fewer rows of tables within each other.',
    'begun-without-mails': 'It was begun from a sheet, without mails.',
    'many-views': 'One member keeps at most {limit} views.',
    'not-a-reader': 'Only those who may read all that it holds can send it elsewhere.',
    'too-far-back': 'More than {limit} changes lie in between. Go back to a published version instead.',
    'none-named': '{field}: nothing that can be chosen here is called “{name}”.',
    'several-named': '{field}: several members are called “{name}”.',
    'link-ends-first': 'It would end before it begins.',
    'link-no-intake': 'The published version has no intake stage “{stage}”.',
    'link-has-roles': 'Only those in a role may begin at “{stage}”: take the roles off the stage, and publish.',
    'link-no-hand-off': 'Guests could press no button there: each is for a role.',
    'link-no-choices': 'Guests can’t choose “{field}”: members and records are not shown to them.',
    'link-no-field': '“{field}” is no text that is entered at this stage and everybody may read.',
    'other-workflow': 'The definition’s key is that of another workflow.',
  },
  /** One mail in place of the several that an import would send to the same receivers. */
  digest: {
    subject: '{count} messages about new records',
    opening: 'These {count} messages are sent as one, because their records were begun together.',
  },
  registerFacts: {
    number: 'Number',
    stage: 'Stage',
    submitter: 'Submitted by',
    assignee: 'With',
    createdAt: 'Begun',
    arrivedAt: 'At its stage since',
    due: 'Due',
  },
  deliveryFaults: {
    nobody: 'Nobody to send it to: no address was found.',
    'recipient-unfit': 'Recipient {recipients} isn’t one e-mail address.',
    'partly-refused': 'The mail server refused recipient {recipients}, and took it for the others: {answer}',
    'cut-off': 'The last attempt was cut off.',
    refused: '{answer}',
    'no-outlet': 'There is no outlet “{outlet}” of this kind.',
    'too-large': 'It holds {bytes} bytes; at most {limit} are sent.',
    'no-file': 'The file “{name}” isn’t here any more.',
    unreachable: 'It couldn’t be reached: {answer}',
    'timed-out': 'No answer came within {seconds} seconds.',
    status: 'It answered {status}.',
    'answer-too-large': 'Its answer is larger than {limit} bytes.',
    'answer-unfit': 'It answered, and nothing was taken from the answer: {why}',
    'put-away': '{by} put it away: {reason}',
    'not-allowed': 'Its address leads into the server’s own network.',
    'bad-address': '“{address}” is no address.',
    'file-there': 'There is a file “{name}” already.',
    'no-letters': 'No font that is here has {letters}: the document would show gaps in their places.',
    'bad-name': '“{name}” can’t be the name of a file.',
    unconfirmed: 'The address was given by somebody without an account, and its holder hasn’t confirmed it yet.',
    'never-confirmed': 'Its receiver didn’t confirm the address within a week.',
    'many-unconfirmed': 'Too many addresses that came by this public link were asked to confirm themselves within the hour.',
    'no-own-address':
      'Its receiver can’t be asked to confirm the address, because the server doesn’t know its own: set YPOMET_ADDRESS.',
  },
};
