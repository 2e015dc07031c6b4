import { demoFolder, findDataFolder } from '#server/data-folder';
import { readPushToken, renewPushToken } from '#server/push-token';
import { whyNot } from '#server/why-not';
import { UsageError } from '../input';
import { print } from '../output';

interface TokenOptions {
  readonly data?: string;
  readonly demo?: true;
  readonly renew?: true;
}

/** Prints the token by which programs push captures to the app with this data folder. */
export function token({ data: folder = findDataFolder(), demo, renew }: TokenOptions): void {
  const data = demo === true ? demoFolder(folder) : folder;
  try {
    print(renew === true ? renewPushToken(data) : readPushToken(data));
  } catch (error) {
    throw new UsageError(`The token cannot be kept in ${data}: ${whyNot(error)}.`);
  }
}
