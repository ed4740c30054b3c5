/** Polish. */
import type { IcuMessages } from './keys.js';

const didYouMean = '{nearCount, plural, =0 {} other { Czy chodziło o {near}?}}';
const tellSomebody =
  'Coś poszło nie tak po mojej stronie. Proszę przekazać to osobie, która mnie prowadzi: {reference}.';

export const polishMessages: IcuMessages = {
  'command.unknown': `{because, select, unnamed {} other {Nie ma polecenia „{name}”.${didYouMean}}}{help, select, none {} other { „{help}” powie, co tu mogę zrobić.}}`,
  'command.changed': 'Polecenie „{name}” zmieniło się w międzyczasie. Proszę poszukać go jeszcze raz.',
  'command.unavailable':
    '{because, select, off {Polecenie „{command}” jest tu wyłączone.} scope {Polecenie „{command}” nie jest tu dostępne.} other {Polecenie „{command}” nie jest dostępne {surface, select, text {jako wiadomość} slash {z ukośnikiem} console {w konsoli} other {w ten sposób}}.}}',
  'place.wrong':
    '{allowed, select, guild {Polecenie „{command}” działa tylko na kanale serwera.{atConsole, select, true { Proszę powiedzieć, na którym.} other {}}} other {Polecenie „{command}” działa tylko w wiadomości prywatnej.}}',
  'permission.caller': '{denied, select, true {Nie masz tu na to pozwolenia.} other {{missing}}}',
  'permission.bot': 'Potrzebuję tu uprawnienia {name}, żeby to zrobić. Proszę zwrócić się do administratora.',
  'permission.rank':
    '{because, select, self {Nie można zrobić tego samemu sobie.} unknown {Nie wiem, kto tu stoi wyżej, więc nic nie robię ({who}).} other {{of, select, bot {{who} stoi tu wyżej ode mnie albo na równi ze mną, więc nie mogę tego zrobić.} other {Można to zrobić tylko komuś niższemu rangą, a {who} nie stoi niżej.}}}}',
  'permission.target':
    '{because, select, the_bot {Mnie nie można tego zrobić.} unknown {Nie wiem, czy {who} to nie ja, więc tego nie zrobię.} a_bot {{who} to bot, więc nie można tego zrobić.} no_bot {{who} to nie bot, więc nie można tego zrobić.} can {{who} ma uprawnienie {permission}, więc nie można tego zrobić.} other {{who} nie ma uprawnienia {permission}, które jest do tego potrzebne.}}',
  'requirement.failed': '{argument, select, none {{reason}} other {„{argument}”: {reason}}}',
  'argument.missing': 'Brakuje „{argument}”. Oczekiwano: {expected}.',
  'argument.invalid': `„{argument}” przyjmuje: {expected}; „{read}” {misfit, select, shape {nie pasuje} unit {nie ma jednostki, jak w 3h} below {to {measure, select, length {za krótko} moment {za wcześnie} other {za mało}}} other {to {measure, select, length {za długo} moment {za późno} size {za duże} other {za dużo}}}}.${didYouMean}`,
  'argument.ambiguous': '„{argument}”: „{read}” może oznaczać {matches}. Które z nich?',
  'argument.absent-member': '„{argument}”: znam „{read}”, ale tej osoby nie ma na tym serwerze.',
  'argument.extra':
    '{because, select, twice {„{read}” stoi dwa razy; wystarczy raz.} other {Nie wiem, co zrobić z „{read}”{argument, select, none {} other {: „{argument}” przyjmuje: {expected}}}.}}',
  'argument.unknown': `W tym poleceniu nie ma „{name}”.${didYouMean}`,
  'input.malformed': 'Cudzysłów jest otwarty i nigdzie nie jest zamknięty.',
  'cooldown.active':
    '{counts, select, user {Jeszcze nie.} userHere {Jeszcze nie.} other {Jeszcze nie, dla nikogo.}} Do następnego razu pozostało: {retryAfter}.',
  'running.full':
    '{most, plural, =1 {To już jest w toku. Proszę poczekać, aż się skończy.} few {W toku są już {most} takie zadania. Proszę poczekać.} many {W toku jest już {most} takich zadań. Proszę poczekać.} other {W toku jest już {most} takiego zadania. Proszę poczekać.}}',
  'store.unavailable': 'Nie mogę teraz sprawdzić, co tu obowiązuje. Proszę spróbować później. ({reference})',
  'answer.none':
    '{because, select, late {Nie było odpowiedzi, więc nic się nie stało.} busy {Czekam jeszcze na inną odpowiedź, więc nic się nie stało.} other {Trzeba by zapytać, a tutaj nie mogę.}}',
  'answer.stopped': 'Dobrze, nic się nie stało.',
  'layer.closing': 'Zaraz uruchomię się ponownie. Proszę spróbować za minutę.',
  'handler.failed': tellSomebody,
  'handler.timeout':
    '{afterMs, select, none {Muszę uruchomić się ponownie i nie udało się tego dokończyć.} other {Nie udało się tego zrobić w wyznaczonym czasie ({after}), więc dalej nie czekam.}} ({reference})',
  'callback.failed': tellSomebody,
  'platform.forbidden': 'Nie wolno mi tego tutaj zrobić. ({reference})',
  'platform.gone': 'Tego, czego to dotyczyło, już nie ma. ({reference})',
  'platform.unreachable': 'Nie udało się połączyć z systemem czatu. Proszę spróbować później. ({reference})',
  'platform.slowed': 'System czatu każe mi zwolnić. Proszę spróbować za chwilę. ({reference})',
  'platform.failed': 'System czatu nie mógł tego zrobić. Proszę przekazać to osobie, która mnie prowadzi: {reference}.',
  'reply.usage': 'Użycie: {written}',
  'reply.quoted': 'Jako zwykły tekst pisze się to {written}.',
  'reply.example': 'Przykład: {written}',
  'reply.done': 'Gotowe.',
  'reply.answered': 'Odpowiedź została przekazana.',
  'reply.quiet': 'Powtarzam to już kolejny raz, więc na razie nie odpowiadam (czas: {wait}).',
  'reply.lowered': '„{argument}”: obniżono do największej dozwolonej wartości: {to}.',
  'reply.read-as': '„{argument}”: „{read}” rozumiem jako {as}.',
  'reply.cut': '… Reszta została pominięta.',
  'reply.rest-apart': '… Reszta jest tylko dla ciebie.',
  'reply.crowded': 'To za dużo naraz: część została pominięta.',
  'ask.argument': 'Potrzebne jest jeszcze „{argument}”: {expected}.',
  'ask.how': 'Wystarczy to napisać, na przykład {example}. Czas: {wait}. „{stop}” kończy.',
  'ask.how-without': 'Wystarczy to napisać. Czas: {wait}. „{stop}” kończy.',
  'ask.decide': 'Napisz „{yes}” albo „{no}”. Czas: {wait}.',
  'ask.undecided': '„{read}” to ani tak, ani nie.',
  'ask.lost': 'Program został uruchomiony ponownie i nie czeka już na odpowiedź. Zacznij jeszcze raz.',
  'ask.stop': 'stop, anuluj',
  'ask.yes': 'tak, t',
  'ask.no': 'nie, n',
  'help.commands': 'Polecenia',
  'help.aliases': 'Także: {names}',
  'help.needs': 'Wymagane: {needed}',
  'help.limit':
    'Limit: {uses, plural, one {# raz} few {# razy} many {# razy} other {# razu}} w czasie: {window}, {counts, select, user {dla każdej osoby} userHere {dla każdej osoby na serwerze} channel {na każdym kanale} guild {dla całego serwera} everyone {dla wszystkich razem} other {według: {counts}}}',
  'help.running':
    'Limit: {uses} naraz, {counts, select, user {dla każdej osoby} userHere {dla każdej osoby na serwerze} channel {na każdym kanale} guild {dla całego serwera} everyone {dla wszystkich razem} other {według: {counts}}}',
  'help.page': 'Strona {page} z {pages}. Dalej: {next}',
  'help.nothing-found': `Nie ma polecenia „{name}”.${didYouMean}`,
  'help.nothing-to-run': 'Nie ma tu nic, co można uruchomić.',
  'requires.can': 'uprawnienie {permission}',
  'requires.bot-can': 'moje uprawnienie {permission}',
  'requires.holds': 'rola {role}',
  'requires.owns-bot': 'własność bota',
  'requires.outranks': 'ranga wyższa niż „{argument}”',
  'requires.bot-outranks': 'moja ranga wyższa niż „{argument}”',
  'requires.target-can': '„{argument}” z uprawnieniem {permission}',
  'requires.target-is-bot': '„{argument}” jako bot',
  'requires.not': 'nie: {needed}',
  'missing.permission':
    '{without, select, true {To nie jest dla osób z uprawnieniem {name}.} other {Potrzebne jest do tego uprawnienie {name}.}}',
  'missing.role':
    '{without, select, true {To nie jest dla osób z rolą {name}.} other {Potrzebna jest do tego rola {name}.}}',
  'missing.ownership':
    '{without, select, true {To nie jest dla właścicieli bota.} other {To jest tylko dla właścicieli bota.}}',
  'expected.word':
    'słowo lub tekst w cudzysłowie{bounds, select, none {} min { (znaków co najmniej {min})} max { (znaków najwyżej {max})} other { (od {min} do {max} znaków)}}',
  'expected.words':
    'tekst{bounds, select, none {} min { (znaków co najmniej {min})} max { (znaków najwyżej {max})} other { (od {min} do {max} znaków)}}',
  'expected.integer':
    'liczba całkowita{bounds, select, none {} min { nie mniejsza niż {min}} max { nie większa niż {max}} other { od {min} do {max}}}',
  'expected.number':
    'liczba{bounds, select, none {} min { nie mniejsza niż {min}} max { nie większa niż {max}} other { od {min} do {max}}}',
  'expected.percent':
    'procent{bounds, select, none {} min { nie mniejszy niż {min}} max { nie większy niż {max}} other { od {min} do {max}}}, jak 50%',
  'expected.money':
    'kwota w {currency}{bounds, select, none {} min { nie mniejsza niż {min}} max { nie większa niż {max}} other { od {min} do {max}}}',
  'expected.attachment': 'plik, najwyżej {max}{typed, select, yes {, typ: {types}} other {}}',
  'expected.duration':
    'czas trwania{bounds, select, none {} min { (najmniej: {min})} max { (najwięcej: {max})} other { (najmniej: {min}, najwięcej: {max})}}',
  'expected.datetime':
    'data i godzina, na przykład 2026-05-09 14:30 lub tomorrow 17:00{lower, select, none {} now {, w przyszłości} fixed {, nie wcześniej niż {min}} other {, najwcześniej po upływie: {min}}}{upper, select, none {} now {, w przeszłości} fixed {, nie później niż {max}} other {, najpóźniej po upływie: {max}}}',
  'expected.length-order': 'czas od największej jednostki do najmniejszej, jak 1d 2h',
  'expected.length-calendar': 'czas bez miesięcy i lat, które nie są równej długości',
  'expected.day': 'data, która istnieje',
  'expected.time': 'godzina od 0:00 do 23:59',
  'expected.skipped': 'godzina, która istnieje; tego dnia zegary ją pomijają',
  'expected.zone': 'godzina z przesunięciem, jak +02:00, albo ze strefą, jak Europe/London',
  'expected.evening': 'także godzina, jak today 20:00',
  'expected.choice': 'jedno z: {labels}',
  'expected.url': 'adres, który zaczyna się od {protocols}',
  'expected.list':
    '{count, select, exact {{max, plural, one {# wartość} few {# wartości} many {# wartości} other {# wartości}}} upTo {najwyżej {max, plural, one {# wartość} few {# wartości} many {# wartości} other {# wartości}}} other {od {min} do {max} wartości}}, każda to {each}',
  'expected.boolean': 'yes (tak) lub no (nie)',
  'expected.emoji': 'jedno emoji',
  'expected.member': 'osoba z tego serwera, przez wzmiankę lub imię',
  'expected.mention': 'osoba z tego serwera, przez wzmiankę',
  'expected.user': 'osoba, przez wzmiankę lub imię',
  'expected.role': 'rola z tego serwera, przez wzmiankę lub nazwę',
  'expected.channel': 'kanał tego serwera, przez wzmiankę lub nazwę',
};
