/** The JSON Schema (2020-12) of the manifest. */

const text = { type: 'string', minLength: 1 } as const;
const byLocale = { type: 'object', additionalProperties: { type: 'string' } } as const;

const argument = {
  type: 'object',
  required: ['type'],
  additionalProperties: false,
  properties: {
    type: { enum: ['string', 'integer', 'number', 'boolean', 'array'] },
    title: { type: 'string' },
    description: { type: 'string' },
    minimum: { type: 'number' },
    maximum: { type: 'number' },
    minLength: { type: 'integer', minimum: 0 },
    maxLength: { type: 'integer', minimum: 0 },
    minItems: { type: 'integer', minimum: 0 },
    maxItems: { type: 'integer', minimum: 0 },
    enum: { type: 'array', items: { type: 'string' } },
    items: { $ref: '#/$defs/argument' },
    'x-kind': { type: 'string' },
    'x-completes': { const: true },
    'x-descriptions': byLocale,
  },
} as const;

const form = {
  id: text,
  name: text,
  description: text,
  names: byLocale,
  descriptions: byLocale,
  permissions: { type: 'array', items: text },
  where: { enum: ['guild', 'direct', 'anywhere'] },
  arguments: {
    type: 'object',
    required: ['type', 'properties', 'required', 'additionalProperties', 'x-order'],
    additionalProperties: false,
    properties: {
      type: { const: 'object' },
      properties: { type: 'object', additionalProperties: { $ref: '#/$defs/argument' } },
      required: { type: 'array', items: text },
      additionalProperties: { const: false },
      'x-order': { type: 'array', items: text, uniqueItems: true },
    },
  },
  commands: { type: 'array', minItems: 1, items: { $ref: '#/$defs/command' } },
} as const;

/** The JSON Schema that every manifest meets. */
export const manifestSchema = {
  $schema: 'https://json-schema.org/draft/2020-12/schema',
  title: 'What a bot’s slash commands look like where they are registered',
  type: 'object',
  required: ['version', 'commands'],
  additionalProperties: false,
  properties: {
    version: { const: 1 },
    commands: {
      type: 'array',
      items: {
        type: 'object',
        required: ['id', 'name', 'description', 'where', 'everywhere', 'guilds'],
        additionalProperties: false,
        properties: {
          ...form,
          everywhere: { type: 'boolean' },
          guilds: { type: 'array', items: text, uniqueItems: true },
          aliasOf: text,
        },
      },
    },
  },
  $defs: {
    command: {
      type: 'object',
      required: ['id', 'name', 'description', 'where'],
      additionalProperties: false,
      properties: form,
    },
    argument,
  },
} as const;
