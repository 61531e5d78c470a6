import { describe, expect, test } from '@jest/globals';
import { compileWorkflow, parseWorkflow, readWorkflow, writeWorkflow } from '@ypomet/core';
import fc from 'fast-check';
import { UnfitFile } from '../../shared/read-sheets.ts';
import { EXAMPLES, renamed } from './examples/examples.ts';
import { MAX_FIELDS_AT_ONCE, readFields } from './read-fields.ts';
import { filledSheets, MAX_FILE_BYTES, readOutlineFile } from './read-file.ts';
import { readOptions } from './read-options.ts';
import { linesOfSchema } from './read-schema.ts';

const NOTHING: ReadonlySet<string> = new Set();
const read = (text: string) => readFields(text, NOTHING, NOTHING);
const told = (text: string) => read(text).fields.map(({ key, name, type }) => `${key} ${name}: ${type}`);

describe('fields from a list', () => {
  test('one a line; bullets and numbers before them go', () => {
    expect(told('Borrower\n- Kind of loan\n  2. Contact person\n\n• Remarks')).toEqual([
      'borrower Borrower: text',
      'kindOfLoan Kind of loan: text',
      'contactPerson Contact person: text',
      'remarks Remarks: long-text',
    ]);
  });

  test('a type may follow; words that are none belong to the name', () => {
    expect(told('Insured value; money\nFragile: yes/no\nNotes: internal\nSigned by; member\nStart; date and time')).toEqual([
      'insuredValue Insured value: money',
      'fragile Fragile: yes-no',
      'notesInternal Notes: internal: long-text',
      'signedBy Signed by: member',
      'start Start: date-time',
    ]);
  });

  test.each([
    ['Due date', 'date'],
    ['Borrower e-mail', 'text'],
    ['Number of crates', 'text'],
    ['Quantity', 'number'],
    ['Is it fragile?', 'yes-no'],
    ['Facility report', 'file'],
    ['Total value', 'money'],
  ])('%s is guessed to be %s', (name, type) => {
    expect(read(name).fields[0]?.type).toBe(type);
  });
});

describe('fields from a sheet', () => {
  test('the first row names them, samples tell their types', () => {
    const rows = [
      'Title\tMaterial\tValue\tWeight\tMade\tFragile\tTaken at\tSeen',
      'Vase\tclay\t€1,200.00\t2.5\t1890-01-02\tyes\t2027-03-01T10:00\t10:30',
      'Map\tpaper\t€300.00\t0.125\t1901-05-06\tno\t2027-03-02T10:00\t11:00',
      'Cup\tclay\t€40.00\t1\t1920-07-08\tno\t2027-03-03T10:00\t12:15',
      'Print\tpaper\t€90.00\t0.5\t1930-09-10\tyes\t2027-03-04T10:00\t13:00',
    ];
    const { fields } = read(rows.join('\n'));
    expect(fields.map(({ name, type }) => `${name}: ${type}`)).toEqual([
      'Title: text',
      'Material: choice',
      'Value: money',
      'Weight: number',
      'Made: date',
      'Fragile: yes-no',
      'Taken at: date-time',
      'Seen: time',
    ]);
    expect(fields[1]?.options).toEqual(['clay', 'paper']);
    expect(fields[3]?.scale).toBe(3);
  });

  test('commas and semicolons part a file’s columns; quoted cells keep theirs', () => {
    expect(told('Name,"City, country",Since\n"A, B",Rome,2020-01-01')).toEqual([
      'name Name: text',
      'cityCountry City, country: text',
      'since Since: date',
    ]);
    expect(told('a;b;c\n1,5;2;3')).toEqual(['a a: number', 'b b: number', 'c c: number']);
  });

  test('a column without samples is guessed from its name', () => {
    expect(told('Due date\tRemarks')).toEqual(['dueDate Due date: date', 'remarks Remarks: long-text']);
  });
});

describe('what can’t be added is said', () => {
  test('names that are there, or come twice', () => {
    const { fields, leftOut } = readFields('Title\ntitle\nBorrower\nAge', new Set(['age']), new Set(['borrower']));
    expect(fields.map(({ key }) => key)).toEqual(['title', 'age2']);
    expect(leftOut).toEqual([
      { name: 'title', why: 'twice' },
      { name: 'Borrower', why: 'twice' },
    ]);
  });

  test('more than can be added at once', () => {
    const lines = Array.from({ length: 5000 }, (_, index) => `Field ${index}`).join('\n');
    const { fields, leftOut } = read(lines);
    expect([fields.length, leftOut.length]).toEqual([MAX_FIELDS_AT_ONCE, 5000 - MAX_FIELDS_AT_ONCE]);
    expect(leftOut[0]?.why).toBe('too-many');
  });

  test('whatever is pasted, keys are their own and names short enough', () => {
    fc.assert(
      fc.property(fc.string({ unit: 'binary', maxLength: 400 }), (text) => {
        const { fields } = read(text);
        expect(new Set(fields.map(({ key }) => key)).size).toBe(fields.length);
        for (const { name } of fields) expect(name.length > 0 && name.length <= 200).toBe(true);
      }),
    );
    expect(read('x'.repeat(10_000)).fields[0]?.name).toHaveLength(200);
    expect(told('😀 Faces\nעברית')).toEqual(['faces 😀 Faces: text', 'field עברית: text']);
  });
});

describe('options from pasted lines', () => {
  const there = [{ code: 'a', label: 'First' }];
  test('labels alone, or code and label; what is there is left out', () => {
    expect(readOptions('Second\nx1; Third\r\n\nfirst\na; Other\nSecond\ny\tFourth; or so', there)).toEqual([
      { code: 'second', label: 'Second' },
      { code: 'x1', label: 'Third' },
      { code: 'y', label: 'Fourth; or so' },
    ]);
  });

  test('codes that can’t be are made anew', () => {
    expect(readOptions('"q"; Quoted\n; Bare', [])).toEqual([
      { code: 'quoted', label: 'Quoted' },
      { code: 'bare', label: 'Bare' },
    ]);
  });
});

describe('examples to start from', () => {
  test.each(EXAMPLES.map((one) => [one.name, one] as const))('%s has no faults, and reads back as it is', (_, example) => {
    const read = readWorkflow(example);
    if (!read.ok) throw new Error(JSON.stringify(read.diagnostics));
    expect(compileWorkflow(read.value, () => null).diagnostics).toEqual([]);
    expect(parseWorkflow(JSON.parse(writeWorkflow(read.value)))).toEqual({ ok: true, value: read.value });
  });

  test('get a key of their own', () => {
    const [first] = EXAMPLES;
    if (!first) throw new Error();
    expect(renamed(first, 'Grant round', new Set(['grantRound']))).toMatchObject({ key: 'grantRound2', name: 'Grant round' });
  });
});

describe('files', () => {
  test('options may be listed behind the type', () => {
    expect(
      read('Kind; choice: Loan, Gift,, Loan\nTags; several choices: a, b').fields.map(({ type, options }) => [type, options]),
    ).toEqual([
      ['choice', ['Loan', 'Gift']],
      ['multi-choice', ['a', 'b']],
    ]);
  });

  test('indented lines are columns of the table above them', () => {
    const { fields, leftOut } = read(
      'Title\nObjects; table\n  Material; choice: oil, paper\n  Value; money\n  Value\nRooms; table\n\tFloor; number\nNo table\n  Not in it',
    );
    expect(fields.map(({ name, type, columns }) => [name, type, columns.map((own) => [own.key, own.type])])).toEqual([
      ['Title', 'text', []],
      [
        'Objects',
        'table',
        [
          ['material', 'choice'],
          ['value', 'money'],
        ],
      ],
      ['Rooms', 'table', [['floor', 'number']]],
      ['No table', 'text', []],
      ['Not in it', 'text', []],
    ]);
    expect(leftOut).toEqual([{ name: 'Value', why: 'twice' }]);
  });

  test('a CSV is read as it is, a JSON Schema as lines', async () => {
    const csv = 'Name,Amount\nLamp,3';
    expect(await readOutlineFile(new File([csv], 'list.csv'))).toEqual([{ sheet: '', text: csv }]);
    const schema = {
      type: 'object',
      properties: { fullName: { type: 'string' }, born: { type: ['string', 'null'], format: 'date' } },
    };
    expect(await readOutlineFile(new File([JSON.stringify(schema)], 'person.json'))).toEqual([
      { sheet: '', text: 'Full name; text\nBorn; date' },
    ]);
  });

  test('the sheets of a file that hold something', () => {
    const sheets = [
      { sheet: 'Cover', data: [] },
      {
        sheet: 'Crates',
        data: [
          ['Width', 'Packed'],
          ['1.5', new Date('2027-03-04T00:00:00Z')],
        ],
      },
      { sheet: 'Rooms', data: [['Name', null]] },
    ];
    expect(filledSheets(sheets)).toEqual([
      { sheet: 'Crates', text: 'Width\tPacked\n1.5\t2027-03-04' },
      { sheet: 'Rooms', text: 'Name\t' },
    ]);
    expect(filledSheets([])).toEqual([{ sheet: '', text: '' }]);
  });

  // After the worked example "Creating your first schema" of json-schema.org (2020-12), from memory.
  test('types, options, nested objects and references of a JSON Schema', () => {
    const schema = {
      $schema: 'https://json-schema.org/draft/2020-12/schema',
      type: 'object',
      properties: {
        productId: { description: 'The unique identifier for a product', type: 'integer' },
        productName: { type: 'string' },
        price: { type: 'number', exclusiveMinimum: 0 },
        state: { enum: ['new', 'used'] },
        tags: { type: 'array', items: { enum: ['red', 'blue'] } },
        inStock: { type: 'boolean', title: 'In stock?' },
        dimensions: {
          type: 'object',
          properties: { length: { type: 'number' }, seen_at: { type: 'string', format: 'date-time' } },
        },
        warehouseLocation: { $ref: '#/$defs/place' },
        parts: {
          type: 'array',
          items: { type: 'object', properties: { a: { type: 'string' }, deeper: { type: 'array', items: {} } } },
        },
        places: { type: 'array', items: { $ref: '#/$defs/place' } },
        nothing: { type: 'array', items: { type: 'object' } },
      },
      $defs: { place: { type: 'object', properties: { longitude: { type: 'number' } } } },
    };
    expect(linesOfSchema(schema)).toEqual([
      'Product id; number',
      'Product name; text',
      'Price; number',
      'State; choice: new, used',
      'Tags; several choices: red, blue',
      'In stock?; yes/no',
      'Length; number',
      'Seen at; date and time',
      'Longitude; number',
      'Parts; table',
      '  A; text',
      'Places; table',
      '  Longitude; number',
    ]);
    expect(linesOfSchema({ properties: { a: { $ref: '#/properties/a' } } })).toEqual(['A; text']);
    for (const none of [null, 7, [], {}, { properties: 3 }]) expect(linesOfSchema(none)).toEqual([]);
  });

  test.each<[string, File]>([
    ['one that is too large', new File([new Uint8Array(MAX_FILE_BYTES + 1)], 'big.csv')],
    ['one that is no text', new File([new Uint8Array([1, 0, 2])], 'picture.csv')],
    ['one that holds no JSON', new File(['{oops'], 'schema.json')],
    ['a JSON file without properties', new File(['{"a":1}'], 'data.json')],
  ])('%s says why it can’t be read', async (_, file) => {
    await expect(readOutlineFile(file)).rejects.toBeInstanceOf(UnfitFile);
  });
});
