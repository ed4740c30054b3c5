/** Who may run what here: commands by roles, each cell with its reason; roles and settings to change. */
import { useEffect, useState } from 'react';
import { Button, Checkbox, CheckboxGroup } from 'react-aria-components';
import type { GuildSettings, Member } from 'taxeon';
import type { AccessCell, AccessTable } from 'taxeon/queries';
import { messageOf, type Workshop } from './workshop.js';

const signs: Readonly<Record<AccessCell['verdict'], string>> = { allowed: '✓', refused: '✗', depends: '~', off: '○' };

export function AccessPanel({ workshop }: { readonly workshop: Workshop }) {
  const [table, setTable] = useState<AccessTable | undefined>();
  const [settings, setSettings] = useState<GuildSettings>({});
  const [reason, setReason] = useState('');
  const { speaker, place, steps } = workshop;
  const guild = workshop.guildHere();

  // biome-ignore lint/correctness/useExhaustiveDependencies: again whenever something was done, or the question is about another person
  useEffect(() => {
    let isCurrent = true;
    void (async () => {
      const [nextTable, nextSettings] = await Promise.all([workshop.access(speaker), workshop.settingsHere()]);
      if (!isCurrent) return;
      setTable(nextTable);
      setSettings(nextSettings);
    })();
    return () => {
      isCurrent = false;
    };
  }, [workshop, speaker, place, steps.length]);

  if (guild === undefined || table === undefined) {
    return (
      <p className="empty">A direct message is in no guild. Choose a channel above to see who may run what there.</p>
    );
  }
  const member = guild.members.get(speaker) as Member | undefined;
  const change = async (next: GuildSettings) => {
    try {
      await workshop.do({ guild: guild.id, settings: next });
      setSettings(next);
    } catch (error) {
      workshop.set({ problem: messageOf(error) });
    }
  };
  const toggle = (command: string) => {
    const off = settings.off ?? [];
    const isOff = off.includes(command);
    void change({ ...settings, off: isOff ? off.filter((one) => one !== command) : [...off, command] });
  };

  return (
    <>
      <h2>{guild.name}</h2>
      <CheckboxGroup
        className="choices"
        value={member?.roles.map(({ name }) => name) ?? []}
        onChange={(roles) => void workshop.do({ guild: guild.id, member: speaker, roles })}
      >
        <span className="label">Roles of {member?.name}</span>
        {guild.roles.map(({ name }) => (
          <Checkbox key={name} value={name}>
            <span aria-hidden="true">{member?.roles.some((role) => role.name === name) === true ? '☑' : '☐'}</span>{' '}
            {name}
          </Checkbox>
        ))}
      </CheckboxGroup>
      <p className="reason" aria-live="polite">
        {reason === '' ? 'Choose a cell to read its reason. ✓ allowed, ✗ refused, ~ depends, ○ off.' : reason}
      </p>
      <div className="wide" role="region" aria-label="Table of access" tabIndex={0}>
        <table>
          <thead>
            <tr>
              <th scope="col">command</th>
              {table.columns.map((column) => (
                <th key={column} scope="col">
                  {column}
                </th>
              ))}
              <th scope="col">here</th>
            </tr>
          </thead>
          <tbody>
            {table.rows.map(({ command, cells }) => (
              <tr key={command}>
                <th scope="row">{command}</th>
                {cells.map(({ verdict, because }, index) => {
                  const who = table.columns[index] ?? '';
                  const told = `${command}, ${who}: ${verdict}${because === '' ? '' : `, ${because}`}`;
                  return (
                    <td key={who} className={verdict}>
                      <button type="button" aria-label={told} title={told} onClick={() => setReason(told)}>
                        {signs[verdict]}
                      </button>
                    </td>
                  );
                })}
                <td>
                  <Button
                    aria-label={switchLabel(settings, idOf(workshop, command), command)}
                    onPress={() => toggle(idOf(workshop, command))}
                  >
                    {isOff(settings, idOf(workshop, command)) ? 'off' : 'on'}
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </>
  );
}

/** Begins with what is seen on it. */
function switchLabel(settings: GuildSettings, id: string, command: string): string {
  return isOff(settings, id) ? `off: switch ${command} on` : `on: switch ${command} off`;
}

function isOff({ off = [] }: GuildSettings, id: string): boolean {
  return off.includes(id);
}

/** The manifest has the ids of commands by their names. */
function idOf(workshop: Workshop, name: string): string {
  const [first, second] = name.split(' ');
  const entry = workshop.manifest.commands.find((one) => one.name === first);
  if (second === undefined) return entry?.id ?? name;
  return entry?.commands?.find((one) => one.name === second)?.id ?? name;
}
