/** A real IRC server that speaks IRCv3: message ids, times, batches, history that is played back at a join. */
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { IrcServer } from './ngircd.js';
import { findProgram, freePort, listening, type Started, start } from './programs.js';

const modules = [
  'cap',
  'ircv3',
  'services_account',
  'ircv3_accounttag',
  'ircv3_batch',
  'ircv3_capnotify',
  'ircv3_ctctags',
  'ircv3_echomessage',
  'ircv3_msgid',
  'ircv3_servertime',
  'namesx',
  'uhnames',
  'botmode',
  'chanhistory',
];

const config = (folder: string, port: number) => `<config format="xml">
<path configdir="${folder}/conf" datadir="${folder}/data" logdir="${folder}/logs" runtimedir="${folder}/run" moduledir="/usr/lib/inspircd/modules">
<server name="irc.test.local" description="loopback test server" network="TestNet" id="00A">
<admin name="t" nick="t" email="t@localhost.invalid">
<bind address="127.0.0.1" port="${port}" type="clients">
<connect name="main" allow="*" localmax="1000" globalmax="1000" maxconnwarn="no" timeout="10" pingfreq="30" hardsendq="16M" softsendq="4M" recvq="1M" threshold="100000" commandrate="100000000" fakelag="no" resolvehostnames="no" useident="no" limit="5000" maxchans="100">
<dns server="127.0.0.1" timeout="1">
<options casemapping="ascii" announcets="no" defaultmodes="not" exemptchanops="">
<limits maxnick="24" maxchan="60" maxmodes="20">
<chanhistory maxlines="50" enableumode="yes">
${modules.map((name) => `<module name="${name}">`).join('\n')}
`;

export async function startIrcv3Server(): Promise<Omit<IrcServer, 'restart'>> {
  const folder = mkdtempSync(join(tmpdir(), 'oddmere-ircv3-'));
  for (const name of ['conf', 'data', 'logs', 'run']) mkdirSync(join(folder, name));
  const port = await freePort();
  const file = join(folder, 'conf', 'inspircd.conf');
  writeFileSync(file, config(folder, port));
  const root = process.getuid?.() === 0 ? ['--runasroot'] : [];
  const options = [...root, '--nofork', '--nolog', '--nopid', '--config', file];
  const started: Started = start(findProgram('inspircd') ?? 'inspircd', options);
  await listening(port);
  return {
    port,
    async stop() {
      await started.end();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}
