/** What the simulated endpoint takes and answers: an example to build a receiver against (OpenAPI 3.1). */
export const RECEIVER_OPENAPI = {
  openapi: '3.1.0',
  info: {
    title: 'A receiver of deliveries',
    version: '1.0.0',
    summary: 'Quotes for insuring loans; anything else that is sent is taken in.',
    description:
      'Each delivery carries its key as Idempotency-Key; every repeat carries the same, and gets the answer of before. ' +
      'Requests are signed by HTTP message signatures (RFC 9421) with hmac-sha256 over method, target, content-type, ' +
      'content-digest (RFC 9530) and idempotency-key, under the label “ypomet”.',
    license: { name: 'Apache 2.0', identifier: 'Apache-2.0' },
  },
  servers: [{ url: '/' }],
  paths: {
    '/quotes': {
      post: {
        operationId: 'quote',
        summary: 'Ask for a premium',
        security: [],
        parameters: [
          {
            name: 'Idempotency-Key',
            in: 'header',
            required: true,
            description: 'The key of the delivery: the same with every repeat.',
            schema: { type: 'string', format: 'uuid' },
          },
          {
            name: 'Signature',
            in: 'header',
            required: false,
            description: 'RFC 9421, with Signature-Input.',
            schema: { type: 'string' },
          },
        ],
        requestBody: {
          required: true,
          content: {
            'application/json': {
              schema: {
                type: 'object',
                required: ['value'],
                properties: {
                  loan: { type: 'string', description: 'The number of the loan.' },
                  value: { type: 'number', minimum: 0, description: 'What is insured, in euros.' },
                  class: { type: 'string', enum: ['basic', 'standard', 'special'] },
                  from: { type: 'string', format: 'date' },
                  to: { type: 'string', format: 'date' },
                },
              },
              example: { loan: 'L-2027-0042', value: 62400, class: 'basic', from: '2027-03-12', to: '2027-06-11' },
            },
          },
        },
        responses: {
          '200': {
            description: 'The quote.',
            content: {
              'application/json': {
                schema: {
                  type: 'object',
                  required: ['quote', 'premium', 'currency'],
                  properties: {
                    quote: { type: 'string' },
                    premium: { type: 'number', minimum: 0 },
                    currency: { type: 'string', const: 'EUR' },
                  },
                },
                example: { quote: 'Q-L-2027-0042', premium: 74.88, currency: 'EUR' },
              },
            },
          },
          '422': {
            description: 'The value is no number.',
            content: { 'application/json': { schema: { type: 'object', properties: { error: { type: 'string' } } } } },
          },
        },
      },
    },
  },
} as const;
