export type { AnswerAddresses, LateAnswer, SlashAnswer } from './answers.js';
export { type EndpointContext, nativeOf, type SlashEndpoint, slashEndpoint } from './endpoint.js';
export type { ImportedKey, KeyAsJson, SignatureAlgorithm, VerifyingKey } from './keys.js';
export type { SlashEndpointOptions } from './options.js';
export type { HttpPost } from './post.js';
export type { Posted, PostedCaller, PostedName, PostedPlace } from './post-input.js';
export type { Proof, Proven, Proving } from './proof.js';
export {
  type HttpRegistrarOptions,
  httpRegistrar,
  type RegistrarAsk,
  type RegistrarFailure,
  type RegistrarReply,
} from './registrar.js';
export { type SharedSecretOptions, sharedSecret } from './shared-secret.js';
export { type SignatureOptions, signatures } from './signatures.js';
