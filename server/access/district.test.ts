import { createHash, randomUUID } from 'node:crypto';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { exportJWK, generateKeyPair, SignJWT } from 'jose';
import { afterAll, beforeAll, expect, it } from 'vitest';
import { acting, NOW, smallProgramme } from '../../tests/support/small';
import {
  backFromDistrict,
  type DistrictSettings,
  districtSettings,
  leaveForDistrict,
  nameInDistrict,
} from './district';
import { sessionOf } from './sessions';

// A small provider: OpenID Connect Core 1.0 with the code flow and PKCE (RFC 7636), for one client and whoever is set.
let server: Server;
let settings: DistrictSettings;
let who = { sub: 'u-1', email: 'ben@district.example', email_verified: true };
let spoil: { nonce?: string; aud?: string } = {};
const given = new Map<string, { challenge: string; nonce: string }>();

beforeAll(async () => {
  const { publicKey, privateKey } = await generateKeyPair('RS256', { extractable: true });
  const jwk = { ...(await exportJWK(publicKey)), kid: 'one', alg: 'RS256', use: 'sig' };
  server = createServer(async (request, response) => {
    const issuer = `http://127.0.0.1:${(server.address() as AddressInfo).port}`;
    const url = new URL(request.url ?? '/', issuer);
    const json = (body: unknown, status = 200) =>
      response.writeHead(status, { 'content-type': 'application/json' }).end(JSON.stringify(body));
    if (url.pathname === '/.well-known/openid-configuration')
      return json({
        issuer,
        authorization_endpoint: `${issuer}/authorize`,
        token_endpoint: `${issuer}/token`,
        jwks_uri: `${issuer}/keys`,
        response_types_supported: ['code'],
        subject_types_supported: ['public'],
        id_token_signing_alg_values_supported: ['RS256'],
        code_challenge_methods_supported: ['S256'],
      });
    if (url.pathname === '/keys') return json({ keys: [jwk] });
    if (url.pathname === '/authorize') {
      const code = randomUUID();
      given.set(code, {
        challenge: url.searchParams.get('code_challenge') ?? '',
        nonce: url.searchParams.get('nonce') ?? '',
      });
      const back = new URL(url.searchParams.get('redirect_uri') ?? '');
      back.searchParams.set('code', code);
      back.searchParams.set('state', url.searchParams.get('state') ?? '');
      return response.writeHead(302, { location: back.href }).end();
    }
    let text = '';
    for await (const piece of request) text += piece;
    const form = new URLSearchParams(text);
    const asked = given.get(form.get('code') ?? '');
    given.delete(form.get('code') ?? '');
    const proof = createHash('sha256')
      .update(form.get('code_verifier') ?? '')
      .digest('base64url');
    if (!asked || asked.challenge !== proof) return json({ error: 'invalid_grant' }, 400);
    const idToken = await new SignJWT({ ...who, nonce: spoil.nonce ?? asked.nonce })
      .setProtectedHeader({ alg: 'RS256', kid: 'one' })
      .setIssuer(issuer)
      .setAudience(spoil.aud ?? 'arvick')
      .setIssuedAt()
      .setExpirationTime('5m')
      .sign(privateKey);
    return json({ access_token: 'x', token_type: 'Bearer', id_token: idToken });
  });
  await new Promise<void>((up) => server.listen(0, '127.0.0.1', up));
  settings = {
    issuer: new URL(`http://127.0.0.1:${(server.address() as AddressInfo).port}`),
    clientId: 'arvick',
    clientSecret: 'a secret of both',
    name: 'The district',
  };
});
afterAll(() => new Promise((down) => server.close(down)));

const BACK = 'https://strings.example/district/back';
const from = { now: NOW, agent: 'a browser', address: '10.0.0.3', deviceId: null };

/** Goes to the district and comes back, as a browser does. */
async function there() {
  const { to, keep } = await leaveForDistrict(settings, BACK, '/stock');
  const answer = await fetch(to, { redirect: 'manual' });
  return { keep, at: new URL(answer.headers.get('location') ?? '') };
}

it('whoever a coordinator has named enters by the district, and from then on by what it gives to nobody else', async () => {
  const { db } = await smallProgramme();
  const enter = async () => backFromDistrict(db, settings, await there(), from);
  await expect(enter()).rejects.toMatchObject({ type: 'district-unknown' });
  await nameInDistrict(db, acting(), { personId: 2, districtName: 'Ben@District.example' });
  const { token } = await enter();
  expect(await sessionOf(db, token, NOW)).toMatchObject({ personId: 2, role: 'technician' });
  // Another name there, the same person; somebody else with the name, another one.
  who = { ...who, email: 'benedict@district.example' };
  expect(await sessionOf(db, (await enter()).token, NOW)).toMatchObject({ personId: 2 });
  who = { sub: 'u-2', email: 'ben@district.example', email_verified: true };
  await expect(enter()).rejects.toMatchObject({ type: 'district-unknown' });
  await expect(nameInDistrict(db, acting(), { personId: 1, districtName: 'ben@district.example' })).rejects.toThrow(
    /Each person needs their own/,
  );
  await expect(nameInDistrict(db, acting(2), { personId: 2, districtName: 'x' })).rejects.toMatchObject({
    type: 'not-yours',
  });
});

it('an address the district has not proven opens nothing, nor does an answer that is not to what was asked', async () => {
  const { db } = await smallProgramme();
  await nameInDistrict(db, acting(), { personId: 1, districtName: 'ann@district.example' });
  who = { sub: 'u-9', email: 'ann@district.example', email_verified: false };
  await expect(backFromDistrict(db, settings, await there(), from)).rejects.toMatchObject({ type: 'district-unknown' });
  who = { ...who, email_verified: true };
  const refused = { type: 'district-refused' };
  const one = await there();
  const other = await there();
  // Somebody else's answer put upon this browser, a code used by another, a token for another client or another time.
  await expect(backFromDistrict(db, settings, { at: other.at, keep: one.keep }, from)).rejects.toMatchObject(refused);
  const mixed = new URL(one.at);
  mixed.searchParams.set('code', other.at.searchParams.get('code') ?? '');
  await expect(backFromDistrict(db, settings, { at: mixed, keep: one.keep }, from)).rejects.toMatchObject(refused);
  for (const [name, value] of [
    ['nonce', 'another'],
    ['aud', 'another'],
  ] as const) {
    spoil = { [name]: value };
    await expect(backFromDistrict(db, settings, await there(), from), name).rejects.toMatchObject(refused);
  }
  spoil = {};
  const good = await there();
  await backFromDistrict(db, settings, good, from);
  await expect(backFromDistrict(db, settings, good, from)).rejects.toMatchObject(refused);
  expect(await db('session')).toHaveLength(1);
});

it('a district that is half set up is said before anything is served; one that is silent refuses nobody else', async () => {
  expect(districtSettings({})).toBeNull();
  expect(() => districtSettings({ ARVICK_OIDC_ISSUER: 'https://d.example' })).toThrow(/set together with/);
  const silent = { ...settings, issuer: new URL('http://127.0.0.1:1') };
  await expect(leaveForDistrict(silent, BACK, '/')).rejects.toMatchObject({ type: 'district-silent', status: 503 });
});
