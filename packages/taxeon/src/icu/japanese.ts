/** Japanese. */
import type { IcuMessages } from './keys.js';

const didYouMean = '{nearCount, plural, =0 {} other {もしかして：{near}}}';
const tellSomebody = 'こちらで問題が起きました。管理者にこの番号を伝えてください：{reference}';

export const japaneseMessages: IcuMessages = {
  'command.unknown': `{because, select, unnamed {} other {「{name}」というコマンドはありません。${didYouMean}}}{help, select, none {} other {「{help}」でここでできることがわかります。}}`,
  'command.changed': '「{name}」はその間に変更されました。もう一度お探しください。',
  'command.unavailable':
    '{because, select, off {「{command}」はここでは無効になっています。} scope {「{command}」はここでは使えません。} other {「{command}」は{surface, select, text {テキスト} slash {スラッシュ} console {コンソール} other {この方法}}では使えません。}}',
  'place.wrong':
    '{allowed, select, guild {「{command}」はサーバーのチャンネルでのみ使えます。{atConsole, select, true {どのチャンネルかを指定してください。} other {}}} other {「{command}」はダイレクトメッセージでのみ使えます。}}',
  'permission.caller': '{denied, select, true {ここではそれを行えません。} other {{missing}}}',
  'permission.bot': 'それを行うには、私にここで権限{name}が必要です。管理者に頼んでください。',
  'permission.rank':
    '{because, select, self {自分自身に対しては行えません。} unknown {ここでは誰が上位か分からないため、{who}には何もしません。} other {{of, select, bot {{who}はここでは私より上位か同位なので、行えません。} other {それは自分より下位の人に対してのみ行えます。{who}は下位ではありません。}}}}',
  'permission.target':
    '{because, select, the_bot {私に対しては行えません。} unknown {{who}が私自身かどうか分からないので、行いません。} a_bot {{who}はボットなので、行えません。} no_bot {{who}はボットではないので、行えません。} can {{who}は権限{permission}を持っているので、行えません。} other {それには{who}に権限{permission}が必要です。}}',
  'requirement.failed': '{argument, select, none {{reason}} other {「{argument}」：{reason}}}',
  'argument.missing': '「{argument}」がありません。{expected}を入力してください。',
  'argument.invalid': `「{argument}」には{expected}を入力してください。「{read}」は{misfit, select, shape {当てはまりません} unit {単位がありません（例：3h）} below {{measure, select, length {短すぎます} moment {早すぎます} other {少なすぎます}}} other {{measure, select, length {長すぎます} moment {遅すぎます} size {大きすぎます} other {多すぎます}}}}。${didYouMean}`,
  'argument.ambiguous': '「{argument}」：「{read}」は{matches}のどれでしょうか。',
  'argument.absent-member': '「{argument}」：「{read}」は知っていますが、このサーバーにはいません。',
  'argument.extra':
    '{because, select, twice {「{read}」が二度書かれています。一度で十分です。} other {「{read}」をどう扱えばよいか分かりません。{argument, select, none {} other {「{argument}」には{expected}を入力してください。}}}}',
  'argument.unknown': `このコマンドに「{name}」はありません。${didYouMean}`,
  'input.malformed': '引用符が閉じられていません。',
  'cooldown.active':
    '{counts, select, user {まだ使えません。} userHere {まだ使えません。} other {まだ誰も使えません。}}{retryAfter}後にまた使えるようになります。',
  'running.full':
    '{most, plural, =1 {すでに実行中です。終わるまでお待ちください。} other {すでに{most}件が実行中です。お待ちください。}}',
  'store.unavailable': '今はここでの決まりを確認できません。後でもう一度お試しください。（{reference}）',
  'answer.none':
    '{because, select, late {返事がなかったため、何もしませんでした。} busy {別の返事を待っているため、何もしませんでした。} other {確認が必要ですが、ここでは尋ねられません。}}',
  'answer.stopped': 'わかりました。何もしませんでした。',
  'layer.closing': 'まもなく再起動します。一分ほど後にもう一度お試しください。',
  'handler.failed': tellSomebody,
  'handler.timeout':
    '{afterMs, select, none {再起動のため、終わらせることができませんでした。} other {{after}以内に終わらなかったため、待つのをやめました。}}（{reference}）',
  'callback.failed': tellSomebody,
  'platform.forbidden': 'ここでそれを行うことは許可されていません。（{reference}）',
  'platform.gone': '対象はもうありません。（{reference}）',
  'platform.unreachable': 'チャットシステムに接続できませんでした。後でもう一度お試しください。（{reference}）',
  'platform.slowed':
    'チャットシステムから速度を落とすよう求められています。少し後でもう一度お試しください。（{reference}）',
  'platform.failed': 'チャットシステムがそれを行えませんでした。管理者にこの番号を伝えてください：{reference}',
  'reply.usage': '使い方：{written}',
  'reply.quoted': '文字どおりのテキストなら {written} と書きます。',
  'reply.example': '例：{written}',
  'reply.done': '完了しました。',
  'reply.answered': '回答しました。',
  'reply.quiet': '何度もお伝えしましたので、{wait}は返信を控えます。',
  'reply.lowered': '「{argument}」は上限の{to}に下げられました。',
  'reply.read-as': '「{argument}」: 「{read}」を{as}と読みました。',
  'reply.cut': '… 以下は省略されました。',
  'reply.rest-apart': '… 続きはあなただけに送られました。',
  'reply.crowded': '一度に多すぎるため、一部は省略されました。',
  'ask.argument': '「{argument}」を教えてください：{expected}。',
  'ask.how': '{wait}以内にそのまま入力してください（例：{example}）。「{stop}」で終わります。',
  'ask.how-without': '{wait}以内にそのまま入力してください。「{stop}」で終わります。',
  'ask.decide': '{wait}以内に「{yes}」か「{no}」で答えてください。',
  'ask.undecided': '「{read}」は「はい」でも「いいえ」でもありません。',
  'ask.lost': '再起動したため、返事を待っていません。もう一度始めてください。',
  'ask.stop': '中止, やめる',
  'ask.yes': 'はい, 承知',
  'ask.no': 'いいえ, 不要',
  'help.commands': 'コマンド',
  'help.aliases': '別名：{names}',
  'help.needs': '必要なもの：{needed}',
  'help.limit':
    '制限：{counts, select, user {一人につき} userHere {サーバーの一人につき} channel {チャンネルごとに} guild {サーバー全体で} everyone {全員合わせて} other {{counts}ごとに}}{window}に{uses}回まで',
  'help.running':
    '制限：{counts, select, user {一人につき} userHere {サーバーの一人につき} channel {チャンネルごとに} guild {サーバー全体で} everyone {全員合わせて} other {{counts}ごとに}}同時に{uses}件まで',
  'help.page': '{page}／{pages}ページ。次：{next}',
  'help.nothing-found': `「{name}」というコマンドはありません。${didYouMean}`,
  'help.nothing-to-run': 'ここで実行できるものはありません。',
  'requires.can': '権限{permission}',
  'requires.bot-can': '私の権限{permission}',
  'requires.holds': 'ロール{role}',
  'requires.owns-bot': 'ボットの所有者であること',
  'requires.outranks': '「{argument}」より上位であること',
  'requires.bot-outranks': '私が「{argument}」より上位であること',
  'requires.target-can': '「{argument}」の権限{permission}',
  'requires.target-is-bot': '「{argument}」がボットであること',
  'requires.not': '次でないこと：{needed}',
  'missing.permission':
    '{without, select, true {権限{name}を持つ人は行えません。} other {それには権限{name}が必要です。}}',
  'missing.role':
    '{without, select, true {ロール{name}を持つ人は行えません。} other {それにはロール{name}が必要です。}}',
  'missing.ownership':
    '{without, select, true {ボットの所有者は行えません。} other {それはボットの所有者だけが行えます。}}',
  'expected.word':
    '{bounds, select, none {} min {{min}文字以上の} max {{max}文字以下の} other {{min}文字から{max}文字の}}単語または引用符で囲んだテキスト',
  'expected.words':
    '{bounds, select, none {} min {{min}文字以上の} max {{max}文字以下の} other {{min}文字から{max}文字の}}テキスト',
  'expected.integer': '{bounds, select, none {} min {{min}以上の} max {{max}以下の} other {{min}から{max}までの}}整数',
  'expected.number': '{bounds, select, none {} min {{min}以上の} max {{max}以下の} other {{min}から{max}までの}}数',
  'expected.percent':
    '{bounds, select, none {} min {{min}以上の} max {{max}以下の} other {{min}から{max}までの}}パーセント（例：50%）',
  'expected.money':
    '{bounds, select, none {} min {{min}以上の} max {{max}以下の} other {{min}から{max}までの}}金額（{currency}）',
  'expected.attachment': '{max}以内のファイル{typed, select, yes {（{types}）} other {}}',
  'expected.duration':
    '{bounds, select, none {} min {{min}以上の} max {{max}以下の} other {{min}から{max}までの}}長さの時間',
  'expected.datetime':
    '{lower, select, none {} now {これから先の} fixed {{min}以降の} other {今から{min}より後の}}{upper, select, none {} now {これまでの} fixed {{max}以前の} other {今から{max}以内の}}日時（例：2026-05-09 14:30、tomorrow 17:00）',
  'expected.length-order': '1d 2h のように大きい単位から順に並べた長さの時間',
  'expected.length-calendar': '月や年を使わない長さの時間（月や年は長さが一定ではないため）',
  'expected.day': '存在する日付',
  'expected.time': '0:00から23:59までの時刻',
  'expected.skipped': '存在する時刻（その日は時計がその時刻を飛ばします）',
  'expected.zone': '+02:00 のような時差、または Europe/London のような地域を付けた時刻',
  'expected.evening': 'today 20:00 のような時刻も',
  'expected.choice': '{labels}のいずれか',
  'expected.url': '{protocols}で始まるアドレス',
  'expected.list':
    '{count, select, exact {{max}個} upTo {{max}個以下} other {{min}個から{max}個}}の値（それぞれ{each}）',
  'expected.boolean': 'yes（はい）またはno（いいえ）',
  'expected.emoji': '絵文字一つ',
  'expected.member': 'このサーバーの人（メンションまたは名前）',
  'expected.mention': 'このサーバーの人（メンション）',
  'expected.user': '人（メンションまたは名前）',
  'expected.role': 'このサーバーのロール（メンションまたは名前）',
  'expected.channel': 'このサーバーのチャンネル（メンションまたは名前）',
};
