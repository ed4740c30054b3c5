/** The configuration of services that keep accounts: `/msg NickServ REGISTER`, `IDENTIFY`, SASL. */
export function servicesConfig(folder: string, linkPort: number): string {
  // The services want each setting on a line of its own.
  return blocks(folder, linkPort).replace(/ ([{}]|\w+ = (?:"[^"]*"|\S+))/g, '\n$1');
}

function blocks(folder: string, linkPort: number): string {
  return `
define { name = "services.host" value = "services.test.local" }
uplink { host = "127.0.0.1" ipv6 = no ssl = no port = ${linkPort} password = "linkpw" }
serverinfo { name = "services.test.local" description = "Services" pid = "${folder}/run/services.pid" motd = "${folder}/conf/motd" }
module { name = "inspircd3" use_server_side_mlock = no use_server_side_topiclock = no }
networkinfo { networkname = "TestNet" nicklen = 24 userlen = 10 hostlen = 64 chanlen = 60 modelistsize = 100 vhost_chars = "ABCDEFGHIJKLMNOPQRSTUVWXYZabcdefghijklmnopqrstuvwxyz0123456789.-" allow_undotted_vhosts = no disallow_start_or_end = ".-" }
options { passlen = 32 seed = 9866235 strictpasswords = no badpasslimit = 5 badpasstimeout = 1h updatetimeout = 5m expiretimeout = 30m readtimeout = 5s warningtimeout = 4h timeoutcheck = 3s retrywait = 5s hideprivilegedcommands = yes hideregisteredcommands = yes regexengine = "" }
module { name = "m_sasl" }
module { name = "enc_sha256" }
module { name = "db_flatfile" database = "anope.db" keepbackups = 0 fork = no nobackupokay = yes }
service { nick = "NickServ" user = "services" host = "services.host" gecos = "Nick" }
module { name = "nickserv" client = "NickServ" forceemail = no confirmemailchanges = no unregistered_notice = "" expire = 0 maxaliases = 0 accessmax = 32 inhabit = 15s killquick = 20s kill = 60s guestnickprefix = "Guest" regdelay = 0 registration = "none" nonicknameownership = no passlen = 32 restrictopernicks = no }
module { name = "ns_register" registration = "none" accounts = "no" regdelay = 0s resenddelay = 90s unconfirmedexpire = 1d nickregdelay = 0s }
module { name = "ns_identify" }
module { name = "ns_logout" }
module { name = "ns_set" allow_user_email_change = yes }
module { name = "ns_info" }
module { name = "ns_cert" max = 5 }
module { name = "ns_group" maxaliases = 16 }
command { service = "NickServ" name = "REGISTER" command = "nickserv/register" }
command { service = "NickServ" name = "IDENTIFY" command = "nickserv/identify" }
command { service = "NickServ" name = "LOGOUT" command = "nickserv/logout" }
command { service = "NickServ" name = "CERT" command = "nickserv/cert" }
command { service = "NickServ" name = "GROUP" command = "nickserv/group" }
log { target = "services.log" bot = "Global" logage = 7 admin = "*" override = "*" commands = "*" servers = "*" channels = "*" users = "*" other = "*" rawio = no debug = no }
`;
}
