import { api, need, Problem, type Schema } from './api/client';

// The two halves of using a passkey (Web Authentication, level 3): the server says what the browser is asked, and the browser what the
// device answered. Bytes go as base64url, as the standard's JSON has them.

const bytes = (text: string) =>
  Uint8Array.from(atob(text.replace(/-/g, '+').replace(/_/g, '/')), (c) => c.charCodeAt(0)) as Uint8Array<ArrayBuffer>;
const text = (of: ArrayBuffer | null) =>
  of
    ? btoa(String.fromCharCode(...new Uint8Array(of)))
        .replace(/\+/g, '-')
        .replace(/\//g, '_')
        .replace(/=+$/, '')
    : undefined;

type Described = { id: string; type: 'public-key' };
type Asked = {
  publicKey: Record<string, unknown> & {
    challenge: string;
    user?: { id: string; name: string; displayName: string };
    excludeCredentials?: Described[];
    allowCredentials?: Described[];
  };
};

// Passkeys belong to a name and a safe connection.
export const passkeys = () => window.isSecureContext && 'credentials' in navigator && typeof PublicKeyCredential === 'function';

// Why there can be none here; empty where there can.
export function noPasskeys(): string {
  const own = `${location.protocol}//localhost:${location.port}/`;
  if (/^[\d.]+$|^\[/.test(location.hostname))
    return `Passkeys belong to a name, and this address is a number. Open ${own} if this is the server itself, or its name.`;
  return passkeys() ? '' : 'This browser has no passkeys, or the connection is not a safe one.';
}

async function asked<T>(work: () => Promise<T>): Promise<T> {
  try {
    return await work();
  } catch (e) {
    if (e instanceof DOMException) {
      if (e.name === 'InvalidStateError') throw new Problem('This device has a passkey of your account already.', 409);
      throw new Problem('No passkey was shown: it was broken off, or took too long. Try again.', 400);
    }
    throw e;
  }
}

function options(of: Asked) {
  const list = (l?: Described[]) => l?.map((c) => ({ ...c, id: bytes(c.id) }));
  const { user, ...rest } = of.publicKey;
  return {
    ...rest,
    challenge: bytes(rest.challenge),
    ...(user ? { user: { ...user, id: bytes(user.id) } } : {}),
    excludeCredentials: list(rest.excludeCredentials),
    allowCredentials: list(rest.allowCredentials),
  };
}

// make asks the device for a new passkey.
export async function make(c: Schema['Ceremony']): Promise<Schema['Shown']> {
  const got = (await asked(() =>
    navigator.credentials.create({
      publicKey: options(c.options as unknown as Asked) as unknown as PublicKeyCredentialCreationOptions,
    }),
  )) as PublicKeyCredential;
  const answer = got.response as AuthenticatorAttestationResponse;
  return {
    ceremony: c.ceremony,
    credential: {
      id: got.id,
      rawId: text(got.rawId),
      type: got.type,
      authenticatorAttachment: got.authenticatorAttachment ?? undefined,
      clientExtensionResults: got.getClientExtensionResults(),
      response: {
        clientDataJSON: text(answer.clientDataJSON),
        attestationObject: text(answer.attestationObject),
        transports: answer.getTransports?.() ?? [],
      },
    },
  };
}

// show asks whoever sits there for one of their passkeys.
export async function show(): Promise<Schema['Shown']> {
  const c = await need(api.POST('/sign-in/passkey'));
  const got = (await asked(() =>
    navigator.credentials.get({
      publicKey: options(c.options as unknown as Asked) as unknown as PublicKeyCredentialRequestOptions,
    }),
  )) as PublicKeyCredential;
  const answer = got.response as AuthenticatorAssertionResponse;
  return {
    ceremony: c.ceremony,
    credential: {
      id: got.id,
      rawId: text(got.rawId),
      type: got.type,
      clientExtensionResults: got.getClientExtensionResults(),
      response: {
        clientDataJSON: text(answer.clientDataJSON),
        authenticatorData: text(answer.authenticatorData),
        signature: text(answer.signature),
        userHandle: text(answer.userHandle),
      },
    },
  };
}
