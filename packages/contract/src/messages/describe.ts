import { fill } from '@ypomet/core';
import type { DeliveryFault } from '../dispatch-schemas.ts';
import type { ServerLanguage } from './codes.ts';
import { SERVER_EN } from './en.ts';

/** Why a delivery waits, as a sentence. */
export const describeDeliveryFault = ({ code, params }: DeliveryFault, language: ServerLanguage = SERVER_EN): string =>
  fill(language.deliveryFaults[code], params);
