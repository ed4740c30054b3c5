/** Removes folders of the package that is being built: what was renamed must not live on in them. */
import { rmSync } from 'node:fs';

for (const folder of process.argv.slice(2)) rmSync(folder, { recursive: true, force: true });
