import { isSecretValue } from '../content';
import type { SecretKind } from './kinds';

// What stands under a name: of people and places as well as of credentials.

/** A name in small letters, of one piece: "guest[first_name]" is "guestfirstname". */
const plain = (name: string): string =>
  (/^[ -~]*$/.test(name) ? name : name.normalize('NFD')).toLowerCase().replace(/[^a-z0-9]+/g, '');

/** The end of a name decides: "billing.street" and "street" are the same. */
const NAMED: readonly (readonly [SecretKind, RegExp])[] = [
  [
    'password',
    /(?:passwords?\d?|passwordconfirm|passwordconfirmation|passwordrepeat|passwd|passwort|pwd|passphrase|passcode|pincode|otp|securityanswer|secretanswer)$/,
  ],
  // Codes that are typed in once; a pin may be one on a map.
  ['password', /(?:^|user|card|login|phone|door|access|new|old|current|confirm)pin$/],
  ['password', /(?:mfa|tfa|2fa|otp|totp|sms|twofactor|verification|security|backup|recovery|activation)code$/],
  ['email', /(?:email|emailaddress|mailaddress)$/],
  ['phone', /(?:phone|phonenumber|telephone|mobile|mobilenumber|cellphone)$/],
  ['card', /(?:cardnumber|creditcard|cardno|cvv|cvc)$/],
  ['iban', /(?:iban|accountnumber)$/],
  [
    'person',
    /(?:cardholder|cardholdername|nameoncard|accountholder|displayname|contactname|firstname|lastname|middlename|surname|fullname|givenname|familyname|guestname|vorname|nachname|prenom|nomdefamille|apellidos?|usuario|benutzername|utilisateur|username|loginname|streetaddress|street|addressline\d?|postcode|postalcode|zipcode|birthdate|birthday|dateofbirth)$/,
  ],
  ['coordinates', /(?:latitude|longitude|lat|lon|lng)$/],
  ['national-id', /(?:nationalid|passportnumber|taxid|ssn|dni|nie|cpf)$/],
  [
    'address',
    /(?:^ip|clientip|remoteip|userip|(?<!server)ip(?:address|addr)|remoteaddr|remoteaddress|xforwardedfor|xrealip|connectingip)$/,
  ],
  ['key', /keys?$/],
];

/** So exact a place is somebody's. */
const EXACT_PLACE = /^-?\d{1,3}\.\d{4,}$/;

/** Of a machine or a person on the network; loopback is everybody's (RFC 1122 3.2.1.3, RFC 4291 2.5.3). */
const isNetworkAddress = (value: string): boolean =>
  /^(?:\d{1,3}\.){3}\d{1,3}$|^(?=.*:.*:)[0-9a-f:.]{3,45}$/i.test(value) && !/^(?:127\.|0\.0\.0\.0$|::1?$)/.test(value);

/** What has fewer digits is none of the kind, whatever it is called: "none", "on file", a line of a script. */
const LEAST_DIGITS: Partial<Record<SecretKind, number>> = { phone: 5, card: 3, iban: 4, 'national-id': 4 };

/** What kind of secret stands under a name; undefined where it is none. */
export function kindUnder(name: string, value: string): SecretKind | undefined {
  const isSecret = isSecretValue(name, value);
  const own = plain(name);
  const kind = NAMED.find(([, pattern]) => pattern.test(own))?.[0];
  if (kind === 'address') return isNetworkAddress(value) ? kind : undefined;
  if (kind === 'coordinates') return EXACT_PLACE.test(value) ? kind : undefined;
  // A key may be that of a map: what says so is the finder of credentials.
  if (kind === undefined || kind === 'key') return isSecret ? (kind ?? 'token') : undefined;
  if (kind === 'password' && /(?:pin|code)$/.test(own) && !/\d/.test(value)) return undefined;
  const least = LEAST_DIGITS[kind];
  if (least !== undefined && (value.match(/\d/g)?.length ?? 0) < least) return undefined;
  return value.trim() === '' ? undefined : kind;
}

export const isUnderName = (name: string, value: string): boolean => kindUnder(name, value) !== undefined;
