/** `helpOn` of a call: help as somebody reads it where they are. */

import type { CompiledGroup } from '../../catalogue/compile.js';
import type { Notice } from '../../contract/notice.js';
import type { Run } from '../../pipeline/run-object.js';
import { helpScene, showsTo } from '../../pipeline/viewer.js';
import { plainText } from '../../replies/notice.js';
import { groupHelp, type Help, helpOn } from './data.js';
import { helpNotice } from './words.js';

export async function helpFor(run: Run, name: string | undefined, page = 1): Promise<Notice> {
  const help = await helpDataFor(run, name);
  return helpNotice(help, {
    language: run.language,
    asked: name ?? '',
    page,
    fits: (notice) => lengthOf(run, notice) <= longestOf(run),
    written: (next) => writtenForPage(run, name, next),
  });
}

export async function helpDataFor(run: Run, name: string | undefined): Promise<Help> {
  return helpOn(helpScene(run, await showsTo(run)), name);
}

/** What a group that is called alone answers. */
export async function overviewFor(run: Run, group: CompiledGroup): Promise<Notice> {
  const help = groupHelp(helpScene(run, await showsTo(run)), group);
  return helpNotice(help, {
    language: run.language,
    asked: group.name,
    page: 1,
    fits: () => true,
    written: () => '',
  });
}

/** Where a platform does not say how long a message may be, a screenful. */
const A_SCREENFUL = 1500;

function longestOf({ platform }: Run): number {
  return platform?.capabilities.longestReply ?? A_SCREENFUL;
}

function lengthOf({ platform }: Run, notice: Notice): number {
  return platform?.measure?.(notice) ?? plainText(notice).length;
}

/** As the command that was called is written, be it renamed. */
function writtenForPage(run: Run, name: string | undefined, page: number): string {
  return [`${run.prefix}${run.command}`, '--page', String(page), name ?? ''].join(' ').trim();
}
