import { explain } from '../entry';

/** What stands in JSON Web Tokens: claims, and parameters of their header. */
export const TOKEN_CLAIMS = explain('token claim', [
  ['iss', 'Issuer: who made the token.', 'RFC 7519 4.1.1', ['issuer', 'jwt']],
  [
    'sub',
    'Subject: whom or what the token is about, mostly the user’s id.',
    'RFC 7519 4.1.2',
    ['subject', 'user', 'jwt'],
  ],
  [
    'aud',
    'Audience: for whom the token is meant. A service that is not named must refuse it.',
    'RFC 7519 4.1.3',
    ['audience', 'jwt'],
  ],
  [
    'exp',
    'From this moment (in seconds since 1970) the token is expired and must be refused.',
    'RFC 7519 4.1.4',
    ['expired', 'expiry', 'expires', 'token expired', 'jwt'],
  ],
  [
    'nbf',
    'Before this moment (in seconds since 1970) the token must be refused.',
    'RFC 7519 4.1.5',
    ['not before', 'jwt'],
  ],
  ['iat', 'When the token was made, in seconds since 1970.', 'RFC 7519 4.1.6', ['issued at', 'jwt']],
  ['jti', 'Id of the token, by which a second use can be noticed.', 'RFC 7519 4.1.7', ['jwt id', 'replay']],
  [
    'alg',
    'In the header: how it is signed. “none” means not at all.',
    'RFC 7515 4.1.1',
    ['algorithm', 'signature', 'hs256', 'rs256', 'es256'],
  ],
  ['kid', 'In the header: id of the key it is signed with.', 'RFC 7515 4.1.4', ['key id', 'jwks']],
  ['typ', 'In the header: what kind of token it is, such as JWT or at+jwt.', 'RFC 7515 4.1.9', ['type']],
  [
    'scope',
    'What the token permits, as words with blanks between them.',
    'RFC 8693 4.2',
    ['scp', 'permissions', 'rights', 'roles'],
  ],
  ['client_id', 'The application that the token was given to.', 'RFC 8693 4.3', ['azp', 'application']],
  ['azp', 'The application that an ID token was given to.', 'OpenID Connect Core 2', ['authorized party', 'client']],
  ['nonce', 'Ties an ID token to the sign-in that asked for it.', 'OpenID Connect Core 2', ['replay']],
  ['auth_time', 'When the user signed in, in seconds since 1970.', 'OpenID Connect Core 2', ['sign-in', 'login']],
  ['amr', 'By which methods the user signed in, such as pwd or otp.', 'RFC 8176', ['mfa', 'two-factor']],
  [
    'cnf',
    'The key that the sender must prove to hold: the token alone is not enough.',
    'RFC 7800 3.1',
    ['dpop', 'proof of possession'],
  ],
  ['act', 'Who acts on behalf of the subject.', 'RFC 8693 4.1', ['actor', 'impersonation']],
]);
