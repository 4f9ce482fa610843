import { ValidateIf } from 'class-validator';

/** A field that may be left out. Unlike the usual decorator it takes no null in its place: nothing here means null by it. */
export const LeftOut = (): PropertyDecorator => ValidateIf((_body, value) => value !== undefined);
