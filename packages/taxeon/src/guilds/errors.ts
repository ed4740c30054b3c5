/** What goes wrong with a guild's settings. */
import { bears, mark } from '../base/mark.js';

/** Thrown for settings that are not right; nothing of them was taken. */
export class SettingsError extends Error {
  override readonly name = 'SettingsError';
  readonly [mark] = 'settings-error';

  constructor(readonly problems: readonly string[]) {
    super(`The settings are wrong: ${problems.join('; ')}`);
  }
}

/** Thrown where a guild's settings could not be read: nobody knows what holds there. */
export class UnreadSettings extends Error {
  override readonly name = 'UnreadSettings';
  readonly [mark] = 'unread-settings';

  constructor(
    readonly reference: string,
    cause: unknown,
  ) {
    super('The guild’s settings could not be read', { cause });
  }
}

export function isSettingsError(error: unknown): error is SettingsError {
  return bears(error, 'settings-error');
}

export function isUnreadSettings(error: unknown): error is UnreadSettings {
  return bears(error, 'unread-settings');
}
