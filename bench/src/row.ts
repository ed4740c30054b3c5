/** Measures one row in a process of its own, so that no row meets what another has left, and prints it as JSON. */
import { chapters } from './rows/index.js';

const [name] = process.argv.slice(2);
const row = chapters.flatMap(({ rows }) => rows).find((each) => each.name === name);
if (row === undefined) throw new Error(`There is no row ${name}`);
console.log(JSON.stringify(await row.measure()));
process.exit(0);
