/** What proves a post, and what does not. Nothing runs of what is not proved. */

import {
  type Proof,
  type SignatureAlgorithm,
  type SlashEndpointOptions,
  sharedSecret,
  signatures,
  slashEndpoint,
} from '@taxeon/http';
import { virtualClock } from '@taxeon/testing';
import { component, verifySignature } from 'http-message-sig';
import { command, createCommandLayer, memoryStore, type Store } from 'taxeon';
import { describe, expect, test } from 'vitest';
import { startOfAfternoon } from '../../../test/support/oddmere.js';
import { verifierOf } from '../src/keys.js';
import {
  allComponents,
  digestOf,
  origin,
  type Signed,
  type SigningKey,
  signedPost,
  signingKey,
  url,
} from './support/signing.js';

const said = JSON.stringify({ event: 'e1', person: 'wren', command: 'lamp' });

/** An endpoint with one command, and how often that ran. */
function endpointWith(proof: Proof, more: Partial<SlashEndpointOptions> = {}) {
  // One that outlives the process, or the endpoint would say that it forgets.
  const store: Store = { ...memoryStore(), outlivesProcess: true };
  const clock = virtualClock(startOfAfternoon);
  const logged: string[] = [];
  const ran: unknown[] = [];
  const write = ({ why, error }: Readonly<Record<string, unknown>>, message: string) =>
    void logged.push(String(why ?? error ?? message));
  const lamp = command({
    name: 'lamp',
    description: 'Light the lamp',
    run({ caller }) {
      ran.push(caller.id);
      return 'The lamp is lit.';
    },
  });
  const layer = createCommandLayer({ commands: [lamp], clock, log: { error: write, warn: write } });
  let reads = 0;
  const endpoint = slashEndpoint(layer, {
    proof,
    origin,
    store,
    read({ get }) {
      reads += 1;
      return { id: get('event'), caller: { id: get('person') }, command: get('command') };
    },
    ...more,
  });
  return { clock, endpoint, logged, ran, reads: () => reads };
}

/** The same request but for what is given: another body under the same headers, another address. */
async function altered(
  request: Request,
  change: { url?: string; method?: string; body?: string; headers?: Record<string, string> },
) {
  const headers = new Headers(request.headers);
  for (const [name, value] of Object.entries(change.headers ?? {})) headers.set(name, value);
  const method = change.method ?? 'POST';
  const body = method === 'GET' ? null : (change.body ?? (await request.text()));
  return new Request(change.url ?? request.url, { method, headers, body });
}

const keys: Record<SignatureAlgorithm, SigningKey> = {
  ed25519: await signingKey('ed25519'),
  'ecdsa-p256-sha256': await signingKey('ecdsa-p256-sha256'),
  'hmac-sha256': await signingKey('hmac-sha256'),
};
const { ed25519 } = keys;
const other = await signingKey('ed25519');
const proofOf = ({ verifying }: SigningKey) => signatures({ keys: { desk: verifying } });
const by = ({ signer }: SigningKey, more: Partial<Signed> = {}): Signed => ({
  signer,
  keyid: 'desk',
  at: startOfAfternoon,
  ...more,
});

describe('a signature', () => {
  test.each(Object.keys(keys) as SignatureAlgorithm[])('proves a post by %s', async (algorithm) => {
    const { endpoint, ran } = endpointWith(proofOf(keys[algorithm]));
    const response = await endpoint(await signedPost(said, by(keys[algorithm])));
    expect(response.status).toBe(200);
    expect(await response.json()).toEqual({ text: 'The lamp is lit.', visibleTo: 'everyone' });
    expect(ran).toEqual(['wren']);
  });

  const refused: [what: string, post: () => Promise<Request>, why: RegExp][] = [
    [
      'a body with one byte changed',
      async () => altered(await signedPost(said, by(ed25519)), { body: said.replace('lamp', 'lamb') }),
      /another than its content-digest/,
    ],
    [
      'another query',
      async () => altered(await signedPost(said, by(ed25519)), { url: `${url}&x=1` }),
      /signature is not right/,
    ],
    [
      'another path',
      async () => altered(await signedPost(said, by(ed25519)), { url: url.replace('slash', 'other') }),
      /signature is not right/,
    ],
    [
      'a post to another bot that is sent here, under the other’s name',
      async () => signedPost(said, by(ed25519, { url: url.replace('bot.', 'bat.') })),
      /signature is not right/,
    ],
    [
      'a body of another form',
      async () =>
        altered(await signedPost(said, by(ed25519)), {
          headers: { 'content-type': 'application/x-www-form-urlencoded' },
        }),
      /signature is not right/,
    ],
    [
      'a body and its digest changed',
      async () =>
        altered(await signedPost(said, by(ed25519)), {
          body: '{}',
          headers: { 'content-digest': await digestOf('{}') },
        }),
      /signature is not right/,
    ],
    [
      'a signature that is too old',
      async () => signedPost(said, by(ed25519, { at: startOfAfternoon - 331_000 })),
      /too old/,
    ],
    [
      'a signature of the future',
      async () => signedPost(said, by(ed25519, { at: startOfAfternoon + 32_000 })),
      /future/,
    ],
    [
      'no signature',
      async () =>
        altered(new Request(url, { method: 'POST', headers: { 'content-type': 'application/json' }, body: said }), {}),
      /Missing field signature/,
    ],
    ['a key that nobody knows', async () => signedPost(said, by(ed25519, { keyid: 'door' })), /no key "door"/],
    ['another key under a known id', async () => signedPost(said, by(other)), /verification failed/i],
    ['no nonce', async () => signedPost(said, by(ed25519, { nonce: '' })), /nonce is absent/],
    [
      'a nonce without an end',
      async () => signedPost(said, by(ed25519, { nonce: 'n'.repeat(201) })),
      /nonce is empty or too long/,
    ],
    [
      'a key id without an end',
      async () => signedPost(said, by(ed25519, { keyid: 'k'.repeat(5000) })),
      /no key "k{200}"$/,
    ],
    [
      'a signature that leaves out the body',
      async () => signedPost(said, by(ed25519, { components: allComponents.slice(0, 3) })),
      /content-digest is absent|"content-digest" is absent/,
    ],
    [
      'a signature that leaves out the method',
      async () => signedPost(said, by(ed25519, { components: allComponents.slice(1) })),
      /"@method" is absent/,
    ],
    [
      'a signature that leaves out the query',
      async () =>
        signedPost(
          said,
          by(ed25519, { components: ['@method', '@authority', '@path', 'content-type', 'content-digest'] }),
        ),
      /whole address/,
    ],
    [
      'a digest that is deprecated',
      async () => signedPost(said, by(ed25519, { headers: { 'content-digest': 'md5=:AAAA:' } })),
      /neither sha-256 nor sha-512/,
    ],
    [
      'a digest that is none',
      async () => signedPost(said, by(ed25519, { headers: { 'content-digest': 'sha-256=x' } })),
      /does not read/,
    ],
    [
      'two signatures, of which none is named',
      async () => {
        const request = await signedPost(said, by(ed25519));
        const twice = (name: string) =>
          `${request.headers.get(name)}, ${request.headers.get(name)?.replace('sig1', 'sig2')}`;
        return altered(request, {
          headers: { signature: twice('signature'), 'signature-input': twice('signature-input') },
        });
      },
      /label/,
    ],
  ];

  test.each(refused)('does not prove %s', async (_, post, why) => {
    const { endpoint, ran, reads, logged } = endpointWith(proofOf(ed25519));
    const response = await endpoint(await post());
    expect(response.status).toBe(401);
    expect(await response.text()).toBe('');
    expect(response.headers.get('www-authenticate')).not.toBeNull();
    expect([ran, reads()]).toEqual([[], 0]);
    expect(logged).toEqual([expect.stringMatching(why)]);
  });

  test('does not prove what is changed in any one character: of the body, the address, or a header that counts', async () => {
    const { endpoint, ran } = endpointWith(proofOf(ed25519));
    const request = await signedPost(said, by(ed25519));
    const another = (text: string, at: number) =>
      `${text.slice(0, at)}${text[at] === 'x' ? 'y' : 'x'}${text.slice(at + 1)}`;
    const changed: Request[] = [];
    for (let at = 0; at < said.length; at++) changed.push(await altered(request.clone(), { body: another(said, at) }));
    for (let at = origin.length; at < url.length; at++) {
      const elsewhere = another(url, at);
      if (URL.canParse(elsewhere)) changed.push(await altered(request.clone(), { url: elsewhere }));
    }
    for (const name of ['content-digest', 'signature', 'signature-input']) {
      const value = request.headers.get(name) ?? '';
      for (let at = 0; at < value.length; at++)
        changed.push(await altered(request.clone(), { headers: { [name]: another(value, at) } }));
    }
    // All that stand for the same bytes, too: the last character in front of the padding has spare bits.
    const signature = request.headers.get('signature') ?? '';
    const last = signature.indexOf('==:') - 1;
    for (const other of 'ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789+/')
      if (other !== signature[last])
        changed.push(
          await altered(request.clone(), {
            headers: { signature: `${signature.slice(0, last)}${other}${signature.slice(last + 1)}` },
          }),
        );
    expect(changed.length).toBeGreaterThan(340);
    const passed: string[] = [];
    for (const one of changed) {
      const shown = `${one.url} ${one.headers.get('signature-input')} ${one.headers.get('signature')}`;
      if ((await endpoint(one)).status === 200) passed.push(shown);
    }
    expect([passed, ran]).toEqual([[], []]);
    expect((await endpoint(request)).status).toBe(200);
  });

  test('by another method is answered with the one that is taken', async () => {
    const { endpoint } = endpointWith(proofOf(ed25519));
    const response = await endpoint(await altered(await signedPost(said, by(ed25519)), { method: 'PUT' }));
    expect([response.status, response.headers.get('allow')]).toEqual([405, 'POST']);
  });

  test('is taken up to five minutes and half a minute late, and half a minute early', async () => {
    const { endpoint, ran } = endpointWith(proofOf(ed25519));
    for (const [n, ms] of [-330_000, 30_000].entries())
      await endpoint(await signedPost(said.replace('e1', `e${n}`), by(ed25519, { at: startOfAfternoon + ms })));
    expect(ran).toHaveLength(2);
  });

  test('counts once: its nonce is refused the second time, by every process, until nobody could use it any more', async () => {
    const clock = virtualClock(startOfAfternoon);
    const store: Store = { ...memoryStore({ clock }), outlivesProcess: true };
    const [one, two] = [endpointWith(proofOf(ed25519), { store }), endpointWith(proofOf(ed25519), { store })];
    const post = await signedPost(said, by(ed25519, { nonce: 'once' }));
    const again = post.clone();
    const third = post.clone();
    expect((await one.endpoint(post)).status).toBe(200);
    expect((await one.endpoint(again)).status).toBe(401);
    expect((await two.endpoint(third)).status).toBe(401);
    expect([one.logged, two.ran]).toEqual([['its nonce came before'], []]);
    await clock.advance('5m');
    expect((await store.entries('http/once/')).length).toBe(1);
    await clock.advance('2m');
    expect((await store.entries('http/once/')).length).toBe(0);
  });

  test('is not remembered where it proves nothing', async () => {
    const store = memoryStore();
    const { endpoint } = endpointWith(proofOf(ed25519), { store });
    for (const [, post] of refused) await endpoint(await post());
    expect(await store.entries('')).toEqual([]);
  });

  test('is by one of two keys while one is changed for the other, and not by one that is retired', async () => {
    const next = await signingKey('ecdsa-p256-sha256');
    const until = new Date(startOfAfternoon + 60_000).toISOString();
    const proof = signatures({ keys: { desk: { ...ed25519.verifying, until }, next: next.verifying } });
    const { endpoint, clock, ran, logged } = endpointWith(proof);
    const event = (n: number) => said.replace('e1', `e${n}`);
    expect((await endpoint(await signedPost(event(1), by(ed25519)))).status).toBe(200);
    expect((await endpoint(await signedPost(event(2), by(next, { keyid: 'next' })))).status).toBe(200);
    await clock.advance('1m');
    expect((await endpoint(await signedPost(event(3), by(ed25519)))).status).toBe(401);
    expect((await endpoint(await signedPost(event(4), by(next, { keyid: 'next' })))).status).toBe(200);
    expect([ran.length, logged]).toEqual([3, ['the key desk is retired']]);
  });

  test('is checked with keys that a function finds', async () => {
    const proof = signatures({ keys: async (id) => (id === 'desk' ? ed25519.verifying : undefined) });
    const { endpoint } = endpointWith(proof);
    expect((await endpoint(await signedPost(said, by(ed25519)))).status).toBe(200);
    expect((await endpoint(await signedPost(said, by(ed25519, { keyid: 'door' })))).status).toBe(401);
  });

  test('is over the address that people use, where a proxy stands before the bot', async () => {
    const { endpoint, ran } = endpointWith(proofOf(ed25519));
    const post = await signedPost(said, by(ed25519));
    expect((await endpoint(await altered(post, { url: 'http://127.0.0.1:8787/slash?from=desk' }))).status).toBe(200);
    expect(ran).toHaveLength(1);
  });

  test('is over any of several addresses, of which a request only chooses one', async () => {
    const origins = [origin, 'https://door.oddmere.example', 'http://127.0.0.1:8787'];
    const { endpoint, ran } = endpointWith(proofOf(ed25519), { origin: origins });
    const statuses: number[] = [];
    for (const [n, to] of [...origins, 'https://bat.oddmere.example'].entries()) {
      const post = await signedPost(said.replace('e1', `e${n}`), by(ed25519, { url: `${to}/slash` }));
      statuses.push((await endpoint(post)).status);
    }
    expect([statuses, ran.length]).toEqual([[200, 200, 200, 401], 3]);
  });

  test('without an address of the bot’s own is refused at the opening; a check of one’s own has none that a sender chose', async () => {
    expect(() => endpointWith(proofOf(ed25519), { origin: undefined as never })).toThrow(/`origin` is missing/);
    expect(() => endpointWith(proofOf(ed25519), { origin: [] })).toThrow('or a list of some');
    expect(() => endpointWith(proofOf(ed25519), { origin: `blob:${origin}` })).toThrow('give an origin');
    const seen: string[] = [];
    const wrapped = endpointWith(
      (proving) => {
        seen.push(proving.url.href);
        return proofOf(ed25519)(proving);
      },
      { origin: undefined as never },
    );
    expect((await wrapped.endpoint(await signedPost(said, by(ed25519)))).status).toBe(401);
    expect(seen).toEqual(['https://origin.invalid/slash?from=desk']);
  });

  test('lets nothing be read that it does not cover', async () => {
    const clock = virtualClock(startOfAfternoon);
    const layer = createCommandLayer({ commands: [], clock });
    const seen: unknown[] = [];
    const endpoint = slashEndpoint(layer, {
      proof: signatures({ keys: { desk: ed25519.verifying }, covers: ['x-desk'] }),
      origin,
      read({ header }) {
        seen.push(header('X-Desk'), header('x-door'));
        throw new Error('enough');
      },
      log: { error() {}, warn() {} },
    });
    const headers = { 'x-desk': 'front', 'x-door': 'back' };
    const components = [...allComponents, 'x-desk'];
    expect((await endpoint(await signedPost(said, by(ed25519, { headers, components })))).status).toBe(400);
    expect(seen).toEqual(['front', undefined]);
    expect((await endpoint(await signedPost(said, by(ed25519, { headers })))).status).toBe(401);
  });

  test('is known after a restart, or the endpoint says at its opening that it is not', () => {
    const forgets = expect.stringContaining('Give a store that outlives the process');
    expect(endpointWith(proofOf(ed25519), { store: memoryStore() }).logged).toEqual([forgets]);
    expect(endpointWith(proofOf(ed25519)).logged).toEqual([]);
    expect(endpointWith(() => true, { store: memoryStore() }).logged).toEqual([]);
  });

  test('cannot be looked up where the store does not answer: nothing runs, and it may be posted again', async () => {
    const store = { ...memoryStore(), compareAndSet: () => Promise.reject(new Error('gone')) };
    const { endpoint, ran } = endpointWith(proofOf(ed25519), { store });
    const response = await endpoint(await signedPost(said, by(ed25519)));
    expect([response.status, response.headers.get('retry-after'), ran]).toEqual([503, '5', []]);
  });

  test('needs keys that are some', () => {
    const pair = { kty: 'OKP', crv: 'Ed25519', x: 'A'.repeat(43), d: 'A'.repeat(43) };
    const wrong: [unknown, string][] = [
      [{}, 'there is none'],
      [
        { desk: { algorithm: 'rsa', key: '' } },
        'desk: its algorithm is none; give ed25519, ecdsa-p256-sha256, hmac-sha256',
      ],
      [{ desk: { algorithm: 'ed25519', key: pair } }, 'desk: it is the private key; give the public one'],
      [{ desk: { algorithm: 'ed25519', key: 'AAAA' } }, 'desk: it is no public key for ed25519, as JWK or PEM'],
      [{ desk: { algorithm: 'hmac-sha256', key: 'c2hvcnQ=' } }, 'desk: its secret is shorter than 32 bytes'],
      [
        { desk: { algorithm: 'hmac-sha256', key: 'no base64!' } },
        'desk: its secret is neither bytes, a JWK of the type oct, nor base64',
      ],
      [
        { desk: { algorithm: 'ed25519', key: { kty: 'OKP', crv: 'Ed25519', x: 'AAAA' } } },
        'desk: it is no public key for ed25519, as JWK or PEM',
      ],
      [
        { desk: { algorithm: 'ed25519', key: '-----BEGIN PUBLIC KEY-----\nAAAA\n-----END PUBLIC KEY-----' } },
        'desk: it is no public key for ed25519, as JWK or PEM',
      ],
      [
        { desk: { ...ed25519.verifying, until: 'tomorrow' } },
        "desk: its `until` is no time; give one such as '2026-12-01T00:00:00Z'",
      ],
      [
        { desk: { algorithm: 'ecdsa-p256-sha256', key: ed25519.verifying.key } },
        'desk: it is no public key for ecdsa-p256-sha256, as JWK or PEM',
      ],
    ];
    expect(() => signatures({ keys: { desk: ed25519.verifying }, within: '2h' })).toThrow(
      'within: it is longer than 1h',
    );
    expect(() => signatures({ keys: { desk: ed25519.verifying }, skew: '10m' })).toThrow('skew: it is longer than 5m');
    for (const [given, problem] of wrong)
      expect(() => signatures({ keys: given as never })).toThrow(`signatures, keys: ${problem}`);
  });
});

/** From the appendices of the RFCs. */
describe('the vectors of RFC 9421 and RFC 9530', () => {
  const request = {
    kind: 'request',
    method: 'POST',
    targetUri: 'https://example.com/foo?param=Value&Pet=dog',
    fields: [
      { name: 'Date', value: 'Tue, 20 Apr 2021 02:07:55 GMT' },
      { name: 'Content-Type', value: 'application/json' },
      { name: 'Content-Length', value: '18' },
    ],
  } as const;
  const response = {
    kind: 'response',
    status: 200,
    fields: [
      { name: 'Content-Type', value: 'application/json' },
      {
        name: 'Content-Digest',
        value: 'sha-512=:mEWXIS7MaLRuGgxOBdODa3xqM1XdEvxoYhvlCFJ41QJgJc4GTsPp29l5oGX69wWdXymyU0rjJuahq4l5aGgfLQ==:',
      },
      { name: 'Content-Length', value: '23' },
    ],
  } as const;
  const vectors = [
    [
      'B.2.4, ECDSA with P-256',
      response,
      {
        algorithm: 'ecdsa-p256-sha256',
        key: {
          kty: 'EC',
          crv: 'P-256',
          x: 'qIVYZVLCrPZHGHjP17CTW0_-D9Lfw0EkjqF7xB4FivA',
          y: 'Mc4nN9LTDOBhfoUeg8Ye9WedFRhnZXZJA12Qp0zZ6F0',
        },
      },
      '("@status" "content-type" "content-digest" "content-length");created=1618884473;keyid="test-key-ecc-p256"',
      'wNmSUAhwb5LxtOtOpNa6W5xj067m5hFrj0XQ4fvpaCLx0NKocgPquLgyahnzDnDAUy5eCdlYUEkLIj+32oiasw==',
    ],
    [
      'B.2.5, HMAC',
      request,
      {
        algorithm: 'hmac-sha256',
        key: 'uzvJfB4u3N0Jy4T7NZ75MDVcr8zSTInedJtkgcu46YW4XByzNJjxBdtjUkdJPBtbmHhIDi6pcl8jsasjlTMtDQ==',
      },
      '("date" "@authority" "content-type");created=1618884473;keyid="test-shared-secret"',
      'pxcQw6G3AjtMBQjwo8XzkZf/bws5LelbaMk5rGIGtE8=',
    ],
    [
      'B.2.6, Ed25519',
      request,
      {
        algorithm: 'ed25519',
        key: '-----BEGIN PUBLIC KEY-----\nMCowBQYDK2VwAyEAJrQLj5P/89iXES9+vFgrIy29clF9CC/oPPsw3c5D0bs=\n-----END PUBLIC KEY-----\n',
      },
      '("date" "@method" "@path" "@authority" "content-type" "content-length");created=1618884473;keyid="test-key-ed25519"',
      'wqcAqbmYJ2ji2glfAMaRy4gruYYnx2nEFN2HN6jrnDnQCK1u02Gb04v9EDgwUPiu4A0w6vuQv5lIp5WPpBKRCw==',
    ],
  ] as const;

  test.each(vectors)('%s, verifies, and not with a byte changed', async (_, message, key, input, signature) => {
    const check = async (given: string) => {
      const fields = [
        ...message.fields,
        { name: 'Signature-Input', value: `sig=${input}` },
        { name: 'Signature', value: `sig=:${given}:` },
      ];
      return verifySignature(
        { ...message, fields },
        {
          policy: {
            algorithms: [key.algorithm],
            requiredComponents: [component('content-type')],
            requiredParameters: [],
          },
          resolveVerifier: () => verifierOf(key),
        },
      );
    };
    expect((await check(signature)).algorithm).toBe(key.algorithm);
    const changed = signature.replace(/^./, (first) => (first === 'A' ? 'B' : 'A'));
    await expect(check(changed)).rejects.toThrow(/verification failed/i);
  });

  test('digests', async () => {
    expect(await digestOf('{"hello": "world"}', 'SHA-512')).toBe(
      'sha-512=:WZDPaVn/7XgHaAy8pmojAkGWoRx2UFChF41A2svX+TaPm+AbwAgBWnrIiYllu7BNNyealdVLvRwEmTHWXvJwew==:',
    );
    expect(await digestOf('{"hello": "world"}\n')).toBe('sha-256=:RK/0qy18MlBSVnWgjwz6lZEWjP/lF5HF9bvEF8FabDg=:');
  });
});

describe('a shared secret', () => {
  const [old, fresh] = ['an-old-secret-of-the-desk', 'a-new-secret-of-the-desk'];
  const post = (headers: Record<string, string>, event = 'e1') =>
    new Request(url, {
      method: 'POST',
      headers: { 'content-type': 'application/json', ...headers },
      body: said.replace('e1', event),
    });

  test('proves a post, two of them while one is changed', async () => {
    const { endpoint, ran } = endpointWith(sharedSecret({ header: 'x-desk', secrets: [old, fresh] }));
    expect((await endpoint(post({ 'x-desk': old }))).status).toBe(200);
    expect((await endpoint(post({ 'x-desk': fresh }, 'e2'))).status).toBe(200);
    expect(ran).toHaveLength(2);
  });

  test.each([
    ['another', { 'x-desk': `${old}x` }],
    ['its beginning', { 'x-desk': old.slice(0, -1) }],
    ['an empty one', { 'x-desk': '' }],
    ['none', {}],
    ['one twice', { 'x-desk': `${old}, ${old}` }],
    ['one without what stands before it', { authorization: old }],
  ])('does not with %s', async (_, headers) => {
    const { endpoint, ran, logged } = endpointWith(sharedSecret({ header: 'x-desk', secrets: [old] }));
    expect((await endpoint(post(headers as Record<string, string>))).status).toBe(401);
    expect(ran).toEqual([]);
    expect(logged.join()).not.toContain(old.slice(0, 8));
  });

  test('may stand behind a word', async () => {
    const { endpoint } = endpointWith(sharedSecret({ header: 'authorization', scheme: 'Bearer ', secrets: [old] }));
    expect((await endpoint(post({ authorization: `Bearer ${old}` }))).status).toBe(200);
    expect((await endpoint(post({ authorization: old }))).status).toBe(401);
  });

  test.each([[[]], [[undefined]], [['short']], [[old, 'short']]])('is refused where it is %j', (secrets) => {
    expect(() => sharedSecret({ header: 'x-desk', secrets })).toThrow('sharedSecret, secrets:');
  });
});

describe('a check of your own', () => {
  const post = () => new Request(url, { method: 'POST', headers: { 'content-type': 'application/json' }, body: said });

  test.each([
    ['true', () => true, 200],
    ['a promise of true', async () => true, 200],
    ['false', () => false, 401],
    ['a sentence', () => 'the desk is closed', 401],
    ['nothing', () => undefined, 401],
    ['something like true', () => 1, 401],
    [
      'a throw',
      () => {
        throw new Error('oops');
      },
      500,
    ],
    ['a rejection', () => Promise.reject(new Error('oops')), 500],
  ])('that gives %s', async (_, proof, status) => {
    const { endpoint, ran } = endpointWith(proof as unknown as Proof);
    expect((await endpoint(post())).status).toBe(status);
    expect(ran).toHaveLength(status === 200 ? 1 : 0);
  });

  test('that never ends is given up, be it long after the longest body', async () => {
    let asked = () => {};
    const isAsked = new Promise<void>((resolve) => {
      asked = resolve;
    });
    const { endpoint, ran, clock } = endpointWith(() => {
      asked();
      return new Promise(() => undefined);
    });
    const response = endpoint(post());
    await isAsked;
    await clock.advance('16s');
    expect([(await response).status, ran]).toEqual([500, []]);
  });

  test.each([[''], ['n'.repeat(1001)], [undefined]])('never takes %j for something new', async (what) => {
    const { endpoint } = endpointWith(async ({ once }) => (await once(what as string, 60_000)) || 'it came before');
    expect((await endpoint(post())).status).toBe(401);
  });

  test('may remember what counts once', async () => {
    const { endpoint } = endpointWith(async ({ once }) => (await once('a-nonce', 60_000)) || 'it came before');
    expect([(await endpoint(post())).status, (await endpoint(post())).status]).toEqual([200, 401]);
  });
});

describe('a body that does not come', () => {
  const secret = 'the-secret-of-the-front-desk';
  const ways = ['with a length', 'in parts'] as const;
  /** Its head is whole; its body never is. */
  function stalling(headers: Headers | Record<string, string> = {}, way: (typeof ways)[number] = 'in parts') {
    const all = new Headers(headers);
    all.set('content-type', 'application/json');
    if (way === 'with a length') all.set('content-length', '100');
    let pulls = -1; // A stream asks once by itself.
    const body = new ReadableStream<Uint8Array>({ pull: () => void pulls++ }, { highWaterMark: 1 });
    const request = new Request(url, { method: 'POST', headers: all, body, duplex: 'half' } as RequestInit);
    return { request, isRead: () => request.bodyUsed || pulls > 0 };
  }
  const reading: Proof = async ({ body }) => (await body()).length > 0;
  /** Those that came have begun to be read. */
  const begun = () => new Promise((done) => setTimeout(done, 20));
  const whole = () => new Request(url, { method: 'POST', headers: { 'content-type': 'application/json' }, body: said });

  test.each([
    ['no secret', sharedSecret({ header: 'x-desk', secrets: [secret] }), {}],
    ['another secret', sharedSecret({ header: 'x-desk', secrets: [secret] }), { 'x-desk': `${secret}!` }],
    ['no signature', proofOf(ed25519), {}],
    ['another’s signature', proofOf(ed25519), signedPost(said, by(other)).then(({ headers }) => headers)],
    ['a check of your own that refuses', () => 'not today', {}],
  ] as const)('is not waited for where there is %s', async (_, proof, headers) => {
    const { endpoint } = endpointWith(proof);
    const { request, isRead } = stalling(await headers);
    const response = await endpoint(request);
    expect([response.status, response.headers.get('connection'), isRead()]).toEqual([401, 'close', false]);
  });

  test.each(
    ways.flatMap(
      (way) =>
        [
          [way, 'a secret', sharedSecret({ header: 'x-desk', secrets: [secret] })],
          [way, 'a signature', proofOf(ed25519)],
          [way, 'a check that reads it', reading],
          [
            way,
            'a check that hides it',
            async ({ body }) =>
              body().then(
                () => true,
                () => true,
              ),
          ],
          [
            way,
            'a check that does not wait',
            ({ body }) => {
              void body();
              return true;
            },
          ],
        ] as const satisfies [string, string, Proof][],
    ),
  )('%s is given up in time, behind %s', async (way, _, proof) => {
    const { endpoint, clock, ran } = endpointWith(proof);
    const { headers } = await signedPost(said, by(ed25519, { headers: { 'x-desk': secret } }));
    const response = endpoint(stalling(headers, way).request);
    await begun();
    await clock.advance('5s');
    expect([(await response).status, ran]).toEqual([408, []]);
  });

  test('gives way to who comes: a thousand that stall, and a genuine one is taken', async () => {
    const { endpoint } = endpointWith(reading);
    const all = Array.from({ length: 1000 }, () => endpoint(stalling().request));
    await begun();
    expect((await endpoint(whole())).status).toBe(200);
    const first = await all[0];
    expect([first?.status, first?.headers.get('retry-after')]).toEqual([503, '5']);
  });

  test('stands in the way of its own address alone, where the server tells it', async () => {
    const { endpoint } = endpointWith(reading);
    const gone: string[] = [];
    const stall = (address: string, n: number) =>
      endpoint(stalling().request, { address }).then(() => gone.push(`${address} ${n}`));
    void stall('198.51.100.7', 0);
    for (let n = 0; n < 103; n++) void stall('203.0.113.9', n);
    await begun();
    expect(gone).toEqual(['203.0.113.9 0', '203.0.113.9 1', '203.0.113.9 2']);
    // All that there is room for, by nine more: then the fullest gives way.
    for (let n = 0; n < 899; n++) void stall(`192.0.2.${n % 9}`, n);
    await begun();
    expect((await endpoint(whole(), { address: '198.51.100.8' })).status).toBe(200);
    expect(gone).toHaveLength(4);
    expect(gone).not.toContain('198.51.100.7 0');
  });
});
