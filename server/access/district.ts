import type { Knex } from 'knex';
import * as client from 'openid-client';
import { type Acting, change } from '../db/change';
import { notFound, refused, UserError } from '../errors';
import { log } from '../log';
import type { From } from './accounts';
import { beginSession } from './sessions';

/** A district's own sign-in (OpenID Connect Core 1.0), as whoever runs the server has set it. */
export interface DistrictSettings {
  issuer: URL;
  clientId: string;
  clientSecret: string;
  /** What its button says. */
  name: string;
}

/** The settings of the environment; null where there are none. @throws Error in words where they cannot be */
export function districtSettings(env: NodeJS.ProcessEnv = process.env): DistrictSettings | null {
  const { ARVICK_OIDC_ISSUER: issuer, ARVICK_OIDC_CLIENT: clientId, ARVICK_OIDC_SECRET: clientSecret } = env;
  if (!issuer) return null;
  if (!URL.canParse(issuer) || !clientId || !clientSecret)
    throw new Error(
      'ARVICK_OIDC_ISSUER must be the address of the district’s sign-in, set together with ARVICK_OIDC_CLIENT and ARVICK_OIDC_SECRET.',
    );
  return { issuer: new URL(issuer), clientId, clientSecret, name: env.ARVICK_OIDC_NAME || 'Sign in with the district' };
}

const known = new Map<string, Promise<client.Configuration>>();

/** What the district says of itself; asked once, and again where it did not answer. */
function configurationOf(s: DistrictSettings): Promise<client.Configuration> {
  const key = `${s.issuer.href} ${s.clientId}`;
  const there =
    known.get(key) ??
    client.discovery(s.issuer, s.clientId, s.clientSecret, undefined, {
      // Without TLS only where it runs on this very machine, as in tests.
      execute: s.issuer.hostname === '127.0.0.1' ? [client.allowInsecureRequests] : [],
    });
  known.set(key, there);
  there.catch(() => known.delete(key));
  return there;
}

/** What has to come back as it went, kept in a cookie meanwhile. */
export interface Leaving {
  state: string;
  nonce: string;
  verifier: string;
  next: string;
}

const silent = new UserError(
  'district-silent',
  503,
  'The district’s sign-in is not answering',
  'Sign in with your name and password, or try again in a moment.',
);

/** Where somebody is sent to sign in, with a code challenge (RFC 7636), and what to keep until they are back. */
export async function leaveForDistrict(
  s: DistrictSettings,
  back: string,
  next: string,
): Promise<{ to: URL; keep: Leaving }> {
  const configuration = await configurationOf(s).catch((error: unknown) => {
    log.warn({ says: (error as Error).message }, 'The district’s sign-in is not answering');
    throw silent;
  });
  const keep: Leaving = {
    state: client.randomState(),
    nonce: client.randomNonce(),
    verifier: client.randomPKCECodeVerifier(),
    next,
  };
  const to = client.buildAuthorizationUrl(configuration, {
    redirect_uri: back,
    scope: 'openid email profile',
    state: keep.state,
    nonce: keep.nonce,
    code_challenge: await client.calculatePKCECodeChallenge(keep.verifier),
    code_challenge_method: 'S256',
  });
  return { to, keep };
}

const notKnown = (who: string): UserError =>
  new UserError(
    'district-unknown',
    403,
    'Not in this programme yet',
    `The district knows you as ${who}. Ask a coordinator to enter that as your district sign-in name under Programme, then try again.`,
  );

/**
 * Somebody is back from the district: begins their session. The first time they are known by the name that a coordinator
 * has entered, from then on by what the district never gives to another.
 *
 * @param at the whole address that they came back to
 * @throws UserError `district-unknown`, `district-refused` when anything is not as it went, `district-silent`
 */
export async function backFromDistrict(
  db: Knex,
  s: DistrictSettings,
  p: { at: URL; keep: Leaving },
  from: From,
): Promise<{ token: string; until: number }> {
  const configuration = await configurationOf(s).catch(() => {
    throw silent;
  });
  const tokens = await client
    .authorizationCodeGrant(configuration, p.at, {
      pkceCodeVerifier: p.keep.verifier,
      expectedState: p.keep.state,
      expectedNonce: p.keep.nonce,
      idTokenExpected: true,
    })
    .catch((error: unknown) => {
      log.warn({ says: (error as Error).message }, 'A sign-in by the district was refused');
      throw new UserError(
        'district-refused',
        401,
        'Not signed in',
        'The district’s answer was not valid, or came too late. Try again.',
      );
    });
  const claims = tokens.claims();
  if (!claims) throw notKnown('someone without a name');
  const subject = `${claims.iss} ${claims.sub}`;
  // An address that the district has not proven may be anybody's.
  const email = claims.email_verified === false ? undefined : claims.email;
  const name = String(email ?? claims.preferred_username ?? '').toLowerCase();
  const personId = await personOf(db, subject, name);
  if (personId === null) throw notKnown(name || 'someone without a name');
  return beginSession(db, { personId, ...from });
}

async function personOf(db: Knex, subject: string, name: string): Promise<number | null> {
  const accounts = () =>
    db('account as a').join('person as p', 'p.id', 'a.person_id').whereNull('p.retired_on').select('a.person_id');
  const bound = await accounts().where({ 'a.district_subject': subject }).first();
  if (bound) return bound.person_id;
  if (!name) return null;
  const named = await accounts().where({ 'a.district_name': name }).whereNull('a.district_subject').first();
  if (!named) return null;
  const taken = await db('account')
    .where({ person_id: named.person_id })
    .whereNull('district_subject')
    .update({ district_subject: subject });
  return taken === 1 ? named.person_id : null;
}

/** By what name the district knows somebody; empty: it does not, and lets them in no more. */
export async function nameInDistrict(
  db: Knex,
  acting: Acting,
  p: { personId: number; districtName: string },
): Promise<{ set: boolean }> {
  return change(db, acting, 'account.district', { personId: p.personId, set: p.districtName !== '' }, async (trx) => {
    if (!(await trx('person').where({ id: p.personId }).whereNull('retired_on').first())) throw notFound('This person');
    const district_name = p.districtName.toLowerCase() || null;
    const other =
      district_name && (await trx('account').where({ district_name }).whereNot({ person_id: p.personId }).first());
    if (other)
      throw refused(
        'taken',
        'That district name is taken',
        'Someone else has that district sign-in name. Each person needs their own.',
      );
    // Another name is another person there.
    const row = { person_id: p.personId, district_name, district_subject: null };
    await trx('account').insert(row).onConflict('person_id').merge(['district_name', 'district_subject']);
    return { result: { set: district_name !== null }, entity: 'person', entityId: p.personId };
  });
}
