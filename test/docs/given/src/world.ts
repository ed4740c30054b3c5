export * from '../world.js';
