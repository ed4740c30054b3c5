/** Types as the generator tells them, as text with links. */
import { escaped } from './markdown.js';

/**
 * @param {object | undefined} type a node of the generator's data
 * @param {(name: string) => string | undefined} hrefOf where a name of the library is told
 * @returns {string} HTML
 */
export function typeText(type, hrefOf) {
  const text = (one) => typeText(one, hrefOf);
  const each = (all, glue) => all.map(text).join(glue);
  const grouped = (one) =>
    ['union', 'intersection', 'conditional', 'typeOperator'].includes(one.type) || isFunction(one)
      ? `(${text(one)})`
      : text(one);
  switch (type?.type) {
    case undefined:
      return '';
    case 'intrinsic':
      return type.name;
    case 'literal':
      return escaped(typeof type.value === 'string' ? `'${type.value}'` : String(type.value));
    case 'reference': {
      const href = hrefOf(type.name);
      const name = href === undefined ? escaped(type.name) : `<a href="${href}">${escaped(type.name)}</a>`;
      return type.typeArguments === undefined ? name : `${name}&lt;${each(type.typeArguments, ', ')}&gt;`;
    }
    case 'array':
      return `${grouped(type.elementType)}[]`;
    case 'union':
      return type.types.map((one) => (isFunction(one) ? `(${text(one)})` : text(one))).join(' | ');
    case 'intersection':
      return each(type.types, ' &amp; ');
    case 'tuple':
      return `[${each(type.elements ?? [], ', ')}]`;
    case 'namedTupleMember':
      return `${type.name}: ${text(type.element)}`;
    case 'rest':
      return `...${text(type.elementType)}`;
    case 'optional':
      return `${text(type.elementType)}?`;
    case 'typeOperator':
      return `${type.operator} ${text(type.target)}`;
    case 'indexedAccess':
      return `${grouped(type.objectType)}[${text(type.indexType)}]`;
    case 'query':
      return `typeof ${text(type.queryType)}`;
    case 'predicate':
      return `${type.asserts === true ? 'asserts ' : ''}${type.name} is ${text(type.targetType)}`;
    case 'conditional':
      return `${text(type.checkType)} extends ${text(type.extendsType)} ? ${text(type.trueType)} : ${text(type.falseType)}`;
    case 'inferred':
      return `infer ${type.name}`;
    case 'templateLiteral':
      return `\`${escaped(type.head)}${type.tail.map(([one, then]) => `\${${text(one)}}${escaped(then)}`).join('')}\``;
    case 'mapped':
      return `{ [${type.parameter} in ${text(type.parameterType)}]: ${text(type.templateType)} }`;
    case 'reflection':
      return declarationText(type.declaration, hrefOf);
    default:
      return escaped(type.name ?? 'unknown');
  }
}

function isFunction(type) {
  return type.type === 'reflection' && type.declaration.signatures !== undefined;
}

/** An object or a function that has no name of its own. */
function declarationText({ signatures, children, indexSignatures = [] }, hrefOf) {
  if (signatures !== undefined)
    return `${parametersText(signatures[0], hrefOf)} =&gt; ${typeText(signatures[0].type, hrefOf)}`;
  const members = (children ?? []).map((member) => memberText(member, hrefOf));
  const keys = indexSignatures.map(
    ({ parameters, type }) =>
      `[${parameters[0].name}: ${typeText(parameters[0].type, hrefOf)}]: ${typeText(type, hrefOf)}`,
  );
  return members.length + keys.length === 0 ? '{}' : `{ ${[...members, ...keys].join('; ')} }`;
}

/** A property, or a method. */
export function memberText({ name, type, signatures, flags, getSignature }, hrefOf) {
  const shown = /^[\w$]+$/.test(name) || name.startsWith('[') ? escaped(name) : `'${escaped(name)}'`;
  const optional = flags.isOptional === true ? '?' : '';
  if (signatures !== undefined)
    return signatures.map((one) => `${shown}${optional}${signatureText(one, hrefOf)}`).join('; ');
  return `${flags.isReadonly === true ? 'readonly ' : ''}${shown}${optional}: ${typeText(type ?? getSignature?.type, hrefOf)}`;
}

/** `<T>(what: T): string` */
export function signatureText(signature, hrefOf) {
  return `${parametersText(signature, hrefOf)}: ${typeText(signature.type, hrefOf)}`;
}

/** Beyond so many characters, each parameter stands on a line of its own. */
const LONG = 60;

function parametersText({ typeParameters = [], parameters = [] }, hrefOf) {
  const given = parameters.map(({ name, type, flags, defaultValue }) => {
    const shown = name === '__namedParameters' ? 'options' : name;
    const mark = flags.isOptional === true || defaultValue !== undefined ? '?' : '';
    return `${flags.isRest === true ? '...' : ''}${escaped(shown)}${mark}: ${typeText(type, hrefOf)}`;
  });
  const isLong = given.join(', ').replace(/<[^>]*>/g, '').length > LONG;
  const list = isLong ? `\n  ${given.join(',\n  ')},\n` : given.join(', ');
  return `${typeParametersText(typeParameters, hrefOf)}(${list})`;
}

export function typeParametersText(typeParameters, hrefOf) {
  if (typeParameters.length === 0) return '';
  const all = typeParameters.map(({ name, type, default: otherwise, flags }) => {
    const bound = type === undefined ? '' : ` extends ${typeText(type, hrefOf)}`;
    return `${flags?.isConst === true ? 'const ' : ''}${name}${bound}${otherwise === undefined ? '' : ` = ${typeText(otherwise, hrefOf)}`}`;
  });
  return `&lt;${all.join(', ')}&gt;`;
}
