import { findDataFolder } from '#server/data-folder';
import { readPushToken, renewPushToken } from '#server/push-token';
import { whyNot } from '#server/why-not';
import { UsageError } from '../input';
import { print } from '../output';

interface TokenOptions {
  readonly data?: string;
  readonly renew?: true;
}

/** Prints the token by which programs push captures to the app with this data folder. */
export function token({ data = findDataFolder(), renew }: TokenOptions): void {
  try {
    print(renew === true ? renewPushToken(data) : readPushToken(data));
  } catch (error) {
    throw new UsageError(`The token cannot be kept in ${data}: ${whyNot(error)}.`);
  }
}
