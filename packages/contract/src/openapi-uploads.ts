import { UPLOADS_PATH } from './limits.ts';
import type { ProblemCode } from './problem.ts';

type Json = Record<string, unknown>;

const header = (name: string, description: string, example: string, isRequired = true): Json => ({
  name,
  in: 'header',
  required: isRequired,
  description,
  schema: { type: 'string' },
  example,
});
const VERSION = header('Tus-Resumable', 'The version of the protocol.', '1.0.0');
const OFFSET = header('Upload-Offset', 'How many bytes of the file came before.', '0');
const COMMON: readonly ProblemCode[] = [
  'session/none',
  'request/foreign-origin',
  'request/too-many',
  'server/busy',
  'server/fault',
];

/**
 * The operations of files in parts, which follow the tus protocol 1.0.0 (tus.io) instead of the contract's own routes.
 * `refusals`: makes the responses for codes of problems. `entry`: the schema of a file as a field names it.
 */
export function uploadPaths(refusals: (codes: readonly ProblemCode[]) => Json, entry: Json): Record<string, Json> {
  const operation = (operationId: string, summary: string, more: Json, codes: readonly ProblemCode[], done: Json): Json => ({
    operationId,
    summary,
    description: `${summary}. Part of the tus protocol 1.0.0.`,
    tags: ['records'],
    security: [{ session: [] }, { pass: [] }],
    ...more,
    responses: { ...done, ...refusals([...COMMON, ...codes]) },
  });
  const named = { name: 'id', in: 'path', required: true, schema: { type: 'string' }, example: 'the last part of Location' };
  return {
    [UPLOADS_PATH]: {
      post: operation(
        'beginUpload',
        'Begins a file in parts',
        {
          parameters: [
            VERSION,
            header('Upload-Length', 'The bytes of the whole file.', '300000'),
            header('Upload-Metadata', 'Name and media type, each in Base64.', 'filename cm9vbXMucGRm'),
          ],
        },
        [
          'request/invalid',
          'request/too-large',
          'file/empty',
          'file/turned-name',
          'upload/too-many',
          'link/shut',
          'server/no-room',
        ],
        { 201: { description: 'Begun; `Location` says where its parts go.' } },
      ),
    },
    [`${UPLOADS_PATH}/{id}`]: {
      head: operation('uploadOffset', 'Says how much of a file is here', { parameters: [named, VERSION] }, ['thing/not-found'], {
        200: { description: '`Upload-Offset` says how much.' },
      }),
      patch: operation(
        'sendPart',
        'Sends a part of a file; the last one is answered with the file',
        {
          parameters: [named, VERSION, OFFSET],
          requestBody: {
            required: true,
            content: { 'application/offset+octet-stream': { schema: { type: 'string', format: 'binary' } } },
          },
        },
        ['thing/not-found', 'upload/offset', 'request/invalid', 'file/empty', 'file/other-content'],
        {
          200: { description: 'The file, as a field names it.', content: { 'application/json': { schema: entry } } },
          204: { description: 'The part is here; `Upload-Offset` says how much is.' },
        },
      ),
      delete: operation(
        'stopUpload',
        'Takes a file back that isn’t here whole',
        { parameters: [named, VERSION] },
        ['thing/not-found'],
        {
          204: { description: 'Nothing of it is kept.' },
        },
      ),
    },
  };
}
