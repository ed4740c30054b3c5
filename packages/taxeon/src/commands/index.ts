export * as arg from './kinds/index.js';
