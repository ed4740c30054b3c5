export * from '../library.js';
