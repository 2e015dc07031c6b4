import type { Rule, RuleId } from '../finding';
import { askedTwice } from './asked-twice';
import { checkedInVain } from './checked-in-vain';
import { clockSkew } from './clock-skew';
import { cookieWeight } from './cookie-weight';
import { crossOrigin } from './cross-origin';
import { cutShort } from './cut-short';
import { errorInSuccess } from './error-in-success';
import { fetchedAgainUnchanged } from './fetched-again-unchanged';
import { foundLate } from './found-late';
import { gap } from './gap';
import { heavyFont } from './heavy-font';
import { heavyImage } from './heavy-image';
import { heavyScript } from './heavy-script';
import { heavyStyle } from './heavy-style';
import { heldInQueue } from './held-in-queue';
import { httpError } from './http-error';
import { inARow } from './in-a-row';
import { keptTooShort } from './kept-too-short';
import { mixedContent } from './mixed-content';
import { neverKept } from './never-kept';
import { noAnswer } from './no-answer';
import { noValidator } from './no-validator';
import { oldProtocol } from './old-protocol';
import { preflightEachTime } from './preflight-each-time';
import { rateLimited } from './rate-limited';
import { readyToLoaded } from './ready-to-loaded';
import { redirectCost } from './redirect-cost';
import { redirectLoop } from './redirect-loop';
import { retried } from './retried';
import { sentUncompressed } from './sent-uncompressed';
import { setUpAgain } from './set-up-again';
import { sharedMiss } from './shared-miss';
import { sharedRisk } from './shared-risk';
import { slowConnection } from './slow-connection';
import { slowDownload } from './slow-download';
import { slowServer } from './slow-server';
import { slowSetUp } from './slow-set-up';
import { socketDropped } from './socket-dropped';
import { thirdPartyOnRoute } from './third-party-on-route';
import { tokenExpired } from './token-expired';
import { tooMany } from './too-many';
import { unreadable } from './unreadable';
import { unusedFields } from './unused-fields';
import { varySplits } from './vary-splits';
import { wrongType } from './wrong-type';

/** Every rule by its id; a rule that is missing does not compile. */
export const RULES: Readonly<Record<RuleId, Rule>> = {
  'http-error': httpError,
  'no-answer': noAnswer,
  'cross-origin': crossOrigin,
  unreadable: unreadable,
  'redirect-loop': redirectLoop,
  'error-in-success': errorInSuccess,
  'cut-short': cutShort,
  'wrong-type': wrongType,
  'token-expired': tokenExpired,
  retried: retried,
  'rate-limited': rateLimited,
  'mixed-content': mixedContent,
  'socket-dropped': socketDropped,
  'slow-server': slowServer,
  'slow-download': slowDownload,
  'set-up-again': setUpAgain,
  'held-in-queue': heldInQueue,
  'found-late': foundLate,
  'in-a-row': inARow,
  gap: gap,
  'ready-to-loaded': readyToLoaded,
  'redirect-cost': redirectCost,
  'third-party-on-route': thirdPartyOnRoute,
  'asked-twice': askedTwice,
  'too-many': tooMany,
  'old-protocol': oldProtocol,
  'slow-connection': slowConnection,
  'slow-set-up': slowSetUp,
  'preflight-each-time': preflightEachTime,
  'sent-uncompressed': sentUncompressed,
  'heavy-script': heavyScript,
  'heavy-style': heavyStyle,
  'heavy-image': heavyImage,
  'heavy-font': heavyFont,
  'cookie-weight': cookieWeight,
  'unused-fields': unusedFields,
  'never-kept': neverKept,
  'kept-too-short': keptTooShort,
  'checked-in-vain': checkedInVain,
  'no-validator': noValidator,
  'fetched-again-unchanged': fetchedAgainUnchanged,
  'shared-miss': sharedMiss,
  'shared-risk': sharedRisk,
  'vary-splits': varySplits,
  'clock-skew': clockSkew,
};
