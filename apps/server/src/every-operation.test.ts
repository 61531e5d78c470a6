import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { makeOpenApi } from '@ypomet/contract';
import fc from 'fast-check';
import { type Call, loanRequest, objectRow, TestServer } from './testing/test-server.ts';

// Every operation of the API document with odd input of the form that its schema allows: no answer is a fault of the server.
type Json = null | boolean | number | string | readonly Json[] | { readonly [key: string]: Json };
type Schema = {
  readonly [key: string]: unknown;
  readonly $ref?: string;
  readonly type?: string | readonly string[];
  readonly enum?: readonly Json[];
  readonly anyOf?: readonly Schema[];
  readonly oneOf?: readonly Schema[];
  readonly allOf?: readonly Schema[];
  readonly items?: Schema | boolean;
  readonly properties?: Readonly<Record<string, Schema>>;
  readonly required?: readonly string[];
  readonly additionalProperties?: Schema | boolean;
};
type Parameter = {
  readonly name: string;
  readonly in: string;
  readonly required: boolean;
  readonly schema: Schema;
  readonly example?: Json;
};
type Operation = {
  readonly operationId: string;
  readonly parameters?: readonly Parameter[];
  readonly requestBody?: { readonly content: Readonly<Record<string, { readonly schema: Schema; readonly example?: Json }>> };
  readonly responses: Readonly<Record<string, { readonly content?: Readonly<Record<string, unknown>> }>>;
};
const document = makeOpenApi() as unknown as {
  readonly paths: Readonly<Record<string, Readonly<Record<string, Operation>>>>;
  readonly components: { readonly schemas: Readonly<Record<string, Schema>> };
};

const SAMPLES = Number(process.env.FUZZ_SAMPLES ?? 8);
const MAX_DEPTH = 4;
/** The same requests each time; `FUZZ_SEED` and `FUZZ_SAMPLES` make others, and more. */
const SEED = Number(process.env.FUZZ_SEED ?? 20_261_201);
/** Texts that have surprised programs: signs of other scripts and directions, of markup, paths, formulas and formats. */
const ODD = [
  '',
  ' ',
  '0',
  '-1',
  'null',
  'İ',
  'ß',
  '\u202eabc',
  '\u0000',
  '\ud800',
  '../..',
  '%2e%2e',
  '{{key}}',
  '=1+1',
  "'; --",
  '<b>',
  '__proto__',
  '9'.repeat(400),
  'é'.repeat(3000),
];
/** Operations that would end the session, or whose answer stays open. */
const LEFT_OUT = new Set([
  'signOut',
  'signIn',
  'watchRecords',
  'watchDraft',
  'beginUpload',
  'uploadOffset',
  'sendPart',
  'stopUpload',
]);

let server: TestServer;
let callers: readonly (readonly [string, Call])[];
/** What is there, by the names that parameters have. */
const known: Record<string, string[]> = {};

/** Values of a schema's form, mostly small, sometimes odd; `name`: of what, to name things that are there. */
function valuesOf(schema: Schema | boolean | undefined, name: string, depth = 0): fc.Arbitrary<Json> {
  if (schema === undefined || typeof schema === 'boolean' || depth > MAX_DEPTH)
    return fc.constantFrom<Json>(null, 1, 'x', [], {});
  if (schema.$ref) return valuesOf(document.components.schemas[schema.$ref.split('/').at(-1) ?? ''], name, depth + 1);
  if (schema.enum) return fc.constantFrom(...schema.enum);
  if ('const' in schema) return fc.constant(schema.const as Json);
  const any = schema.anyOf ?? schema.oneOf;
  if (any) return fc.oneof(...any.map((one) => valuesOf(one, name, depth)));
  const [first] = schema.allOf ?? [];
  if (first) return valuesOf(first, name, depth);
  const type = typeof schema.type === 'string' ? schema.type : schema.type?.[0];
  switch (type) {
    case 'object': {
      const { properties = {}, required = [], additionalProperties } = schema;
      const own = fc.record(
        Object.fromEntries(Object.entries(properties).map(([key, one]) => [key, valuesOf(one, key, depth + 1)])),
        { requiredKeys: [...required] },
      ) as fc.Arbitrary<Json>;
      if (Object.keys(properties).length > 0 || additionalProperties === undefined) return own;
      const keys = fc.constantFrom('borrower', 'objects', 'kind', 'nothing', '__proto__', 'a.b');
      return fc.dictionary(keys, valuesOf(additionalProperties, name, depth + 1), { maxKeys: 4 }) as fc.Arbitrary<Json>;
    }
    case 'array':
      return fc.array(valuesOf(schema.items, name, depth + 1), { maxLength: 3 });
    case 'boolean':
      return fc.boolean();
    case 'integer':
      return fc.oneof(fc.integer({ min: -1, max: 120 }), fc.constantFrom(0, 2 ** 31, 2 ** 53));
    case 'number':
      return fc.oneof(fc.double({ noNaN: true, noDefaultInfinity: true }), fc.integer());
    case 'null':
      return fc.constant(null);
    default:
      return textsOf(schema, name);
  }
}

function textsOf({ format }: Schema, name: string): fc.Arbitrary<string> {
  const odd = fc.constantFrom(...ODD);
  const there = known[name] ?? [];
  const ordinary =
    format === 'uuid'
      ? fc.uuid()
      : format === 'date'
        ? fc.constantFrom('2027-03-12', '0001-01-01', '9999-12-31', '2027-02-30')
        : format === 'date-time'
          ? fc.constantFrom('2027-03-12T09:00:00Z', '0001-01-01T00:00:00Z', '9999-12-31T23:59:59.999Z')
          : format === 'email'
            ? fc.constantFrom('a@b.invalid', 'jürgen@töpfer.invalid')
            : fc.string({ maxLength: 12 });
  return fc.oneof(
    { weight: 2, arbitrary: ordinary },
    { weight: 1, arbitrary: odd },
    ...(there.length > 0 ? [{ weight: 6, arbitrary: fc.constantFrom(...there) }] : []),
  );
}

beforeAll(async () => {
  server = await TestServer.make();
  const [borrower, analyst] = await Promise.all([server.as('borrower'), server.as('analyst')]);
  const begun = await borrower('POST', '/api/intakes/objectLoan/records', {
    stage: 'request',
    handOff: 'submit',
    values: loanRequest(objectRow('a', 'Lamp', 'metal', '100.00')),
  });
  const deliveries = (await analyst('GET', '/api/deliveries?limit=3')).body.entries as { id: string }[];
  callers = [
    ['analyst', analyst],
    ['registrar', await server.as('registrar')],
    ['nobody', (verb, url, body, headers) => server.anybody(verb, url, body, headers)],
  ];
  Object.assign(known, {
    key: ['objectLoan', 'conditionReport', 'mail', 'insurer'],
    workflow: ['objectLoan'],
    stage: ['request', 'registrarCheck'],
    handOff: ['submit', 'accept'],
    field: ['borrower', 'objects.title'],
    sort: ['borrower', 'record.number', 'totalValue'],
    filter: ['totalValue > 1', 'some o in objects satisfies o.fragile', 'borrower = null', 'record.number != ""'],
    columns: ['borrower,objects', 'record.number'],
    table: ['objects'],
    sums: ['totalValue'],
    version: ['1'],
    id: [begun.body.record.id, ...deliveries.map(({ id }) => id)],
  });
});
afterAll(() => server.close());

const operations = Object.entries(document.paths).flatMap(([path, methods]) =>
  Object.entries(methods).map(([method, operation]) => ({ path, method: method.toUpperCase(), operation })),
);

/** Requests of an operation's form: an address, and a body where it has one. */
function requestsOf(
  path: string,
  { parameters = [], requestBody }: Operation,
): fc.Arbitrary<readonly [string, Json | undefined]> {
  const given = fc.record(
    Object.fromEntries(parameters.filter((one) => one.in !== 'header').map((one) => [one.name, valuesOf(one.schema, one.name)])),
    { requiredKeys: parameters.filter((one) => one.in === 'path').map(({ name }) => name) },
  );
  const json = requestBody?.content['application/json'];
  const body: fc.Arbitrary<Json | undefined> = json
    ? fc.oneof({ weight: 5, arbitrary: valuesOf(json.schema, '') }, { weight: 1, arbitrary: fc.constant(json.example ?? null) })
    : fc.constant(requestBody ? 'bytes' : undefined);
  return fc.tuple(given, body).map(([values, sent]) => {
    const write = (value: Json): string =>
      // Half a pair of surrogates can't stand in an address.
      encodeURIComponent((typeof value === 'string' ? value : JSON.stringify(value)).replace(/\p{Surrogate}/gu, '\ufffd'));
    const address = path.replace(/\{(\w+)\}/g, (_, name: string) => write((values as Record<string, Json>)[name] ?? 'x'));
    const query = parameters
      .filter((one) => one.in === 'query' && Object.hasOwn(values, one.name))
      .map((one) => `${one.name}=${write((values as Record<string, Json>)[one.name] ?? null)}`);
    return [query.length > 0 ? `${address}?${query.join('&')}` : address, sent] as const;
  });
}

test.each(
  operations
    .filter(({ operation }) => !LEFT_OUT.has(operation.operationId))
    .map((one) => [one.operation.operationId, one] as const),
)(
  '%s answers odd input of its form without a fault',
  async (_, { path, method, operation }) => {
    const revision = { 'if-match': '"1"', 'content-type': 'application/json' };
    for (const [url, body] of fc.sample(requestsOf(path, operation), { numRuns: SAMPLES, seed: SEED }))
      for (const [who, call] of callers) {
        const { status } = await call(method as 'GET', url, body as never, revision);
        expect({ seed: SEED, who, method, url, body, isFault: status >= 500 && status !== 503 }).toEqual(
          expect.objectContaining({ isFault: false }),
        );
      }
  },
  60_000,
);
