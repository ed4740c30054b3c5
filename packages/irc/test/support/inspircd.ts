/** A real IRC server that speaks IRCv3: message ids, times, batches, history that is played back at a join, accounts. */
import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { findProgram, freePort, listening, type Started, start } from '../../../../test/support/programs.js';
import type { IrcServer } from './ngircd.js';
import { servicesConfig } from './services.js';

export interface Ircv3Options {
  /** The bot's port puts out whoever sends more than about a line a second. */
  readonly flood?: 'strict';
  /** Services that keep accounts. */
  readonly services?: boolean;
  /** A port with TLS, too. */
  readonly tls?: boolean;
}

export interface Ircv3Server extends IrcServer {
  /** For people, where the bot's port is strict. */
  readonly peoplePort: number;
  readonly tlsPort: number;
}

const modules = [
  'cap',
  'ircv3',
  'services_account',
  'ircv3_accounttag',
  'ircv3_batch',
  'ircv3_capnotify',
  'ircv3_ctctags',
  'ircv3_echomessage',
  'ircv3_invitenotify',
  'ircv3_msgid',
  'ircv3_servertime',
  'namesx',
  'uhnames',
  'botmode',
  'chanhistory',
  'sslinfo',
];

const lenient =
  'hardsendq="16M" softsendq="4M" recvq="1M" threshold="100000" commandrate="100000000" fakelag="no" limit="5000"';
/** A line costs a second, of which ten may be owed. */
const strict = 'hardsendq="1M" softsendq="8192" recvq="8K" threshold="10" commandrate="1000" fakelag="no" limit="5000"';

interface Ports {
  readonly port: number;
  readonly peoplePort: number;
  readonly tlsPort: number;
  readonly linkPort: number;
}

function config(folder: string, { port, peoplePort, tlsPort, linkPort }: Ports, options: Ircv3Options): string {
  const connect = (name: string, at: number, class_: string) =>
    `<bind address="127.0.0.1" port="${at}" type="clients"${name === 'tls' ? ' sslprofile="own"' : ''}>
<connect name="${name}" allow="*" port="${at}" localmax="1000" globalmax="1000" maxconnwarn="no" timeout="10" pingfreq="30" resolvehostnames="no" useident="no" maxchans="100" ${class_}>`;
  const services = `<module name="spanningtree">
<bind address="127.0.0.1" port="${linkPort}" type="servers">
<link name="services.test.local" ipaddr="127.0.0.1" port="${linkPort}" allowmask="127.0.0.1" sendpass="linkpw" recvpass="linkpw">
<uline server="services.test.local" silent="yes">
<module name="sasl">
<sasl target="services.test.local" requiressl="no">
${['hidechans', 'svshold', 'cban', 'globops', 'chgident', 'chghost', 'sajoin', 'sapart'].map((name) => `<module name="${name}">`).join('\n')}`;
  const tls = `<module name="ssl_gnutls">
<sslprofile name="own" provider="gnutls" certfile="${folder}/conf/cert.pem" keyfile="${folder}/conf/key.pem" requestclientcert="yes" hash="sha256">`;
  return `<config format="xml">
<path configdir="${folder}/conf" datadir="${folder}/data" logdir="${folder}/logs" runtimedir="${folder}/run" moduledir="/usr/lib/inspircd/modules">
<server name="irc.test.local" description="loopback test server" network="TestNet" id="00A">
<admin name="t" nick="t" email="t@localhost.invalid">
${options.tls === true ? tls : ''}
${connect('main', port, options.flood === 'strict' ? strict : lenient)}
${connect('people', peoplePort, lenient)}
${options.tls === true ? connect('tls', tlsPort, lenient) : ''}
<dns server="127.0.0.1" timeout="1">
<options casemapping="${options.services === true ? 'ascii' : 'rfc1459'}" announcets="no" defaultmodes="not" exemptchanops="">
<limits maxnick="24" maxchan="60" maxmodes="20">
<chanhistory maxlines="50" enableumode="yes">
${modules.map((name) => `<module name="${name}">`).join('\n')}
${options.services === true ? services : ''}
`;
}

export async function startIrcv3Server(options: Ircv3Options = {}): Promise<Ircv3Server> {
  const folder = mkdtempSync(join(tmpdir(), 'oddmere-ircv3-'));
  for (const name of ['conf', 'data', 'logs', 'run', 'db']) mkdirSync(join(folder, name));
  const ports = {
    port: await freePort(),
    peoplePort: await freePort(),
    tlsPort: await freePort(),
    linkPort: await freePort(),
  };
  if (options.tls === true) makeCertificate(join(folder, 'conf'));
  const file = join(folder, 'conf', 'inspircd.conf');
  writeFileSync(file, config(folder, ports, options));
  writeFileSync(join(folder, 'conf', 'motd'), '');
  writeFileSync(join(folder, 'conf', 'services.conf'), servicesConfig(folder, ports.linkPort));
  const root = process.getuid?.() === 0 ? ['--runasroot'] : [];
  let running: Started[] = [];
  const begin = async () => {
    running = [
      start(findProgram('inspircd') ?? 'inspircd', [...root, '--nofork', '--nolog', '--nopid', '--config', file]),
    ];
    await listening(ports.port);
    if (options.services !== true) return;
    const folders = ['conf', 'db'].map((name) => `--${name}dir=${join(folder, name)}`);
    const own = ['--nofork', '--modulesdir=/usr/lib/anope', `--logdir=${join(folder, 'logs')}`, ...folders];
    running.push(start(findProgram('anope') ?? 'anope', own));
  };
  const end = async () => {
    for (const one of running.reverse()) await one.end();
  };
  await begin();
  return {
    ...ports,
    async stop() {
      await end();
      rmSync(folder, { recursive: true, force: true });
    },
    async restart() {
      await end();
      await begin();
    },
  };
}

/** A key and a certificate that signs itself, in a folder. */
export function makeCertificate(folder: string): { readonly key: string; readonly certificate: string } {
  const key = join(folder, 'key.pem');
  const cert = join(folder, 'cert.pem');
  const made = ['-x509', '-newkey', 'rsa:2048', '-nodes', '-days', '2', '-subj', '/CN=irc.test.local'];
  execFileSync('openssl', ['req', ...made, '-keyout', key, '-out', cert], { stdio: 'ignore' });
  return { key: readFileSync(key, 'utf8'), certificate: readFileSync(cert, 'utf8') };
}
