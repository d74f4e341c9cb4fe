<?php

declare(strict_types=1);

namespace Kaiseki\StandIns;

use RuntimeException;

/**
 * A mail server in small: Dovecot on loopback, with mailboxes that lie as Maildir in its folder. It runs as whoever starts it, or as the
 * account "mail" where root does.
 */
final readonly class MailServer
{
    /** The account that may open every mailbox. */
    public const MASTER = 'desk';

    private function __construct(public string $folder, public int $port)
    {
    }

    /** Writes what it needs, if that is not there yet. */
    public static function in(string $folder, int $port): self
    {
        $server = new self($folder, $port);
        is_dir("$folder/files") || mkdir("$folder/files", 0700, true);
        foreach (['run', 'state'] as $own) {
            is_dir("$folder/$own") || mkdir("$folder/$own", 0700);
        }
        ServerAccount::put("$folder/dovecot.conf", $server->configuration());
        if (! is_file("$folder/masters")) {
            ServerAccount::put("$folder/masters", self::MASTER.':{PLAIN}'.bin2hex(random_bytes(16))."::::::\n");
            ServerAccount::put("$folder/users", '');
        }
        $server->own();

        return $server;
    }

    /** What the account that opens every mailbox signs in with. */
    public function masterPassword(): string
    {
        return self::masterPasswordIn($this->folder);
    }

    public static function masterPasswordIn(string $folder): string
    {
        preg_match('/\{PLAIN\}([^:]+)/', (string) file_get_contents("$folder/masters"), $m);

        return $m[1] ?? throw new RuntimeException("$folder/masters names no account");
    }

    /**
     * Makes a mailbox, or gives one that is there another password.
     *
     * @param  string  $name  an address
     * @param  int|null  $quota  megabytes that it may hold
     */
    public function mailbox(string $name, #[\SensitiveParameter] string $password, ?int $quota = null): void
    {
        preg_match('/^[a-z0-9.@+-]{1,100}$/D', $name) === 1 || throw new RuntimeException("$name is no name of a mailbox");
        [$uid, $gid] = ServerAccount::ids();
        $limit = $quota === null ? '' : "userdb_quota_rule=*:storage={$quota}M";
        $others = array_filter($this->lines(), fn (string $line): bool => ! str_starts_with($line, "$name:"));
        $line = "$name:{PLAIN}$password:$uid:$gid::{$this->folder}/files/$name::$limit";
        ServerAccount::put("{$this->folder}/users", implode("\n", [...$others, $line])."\n");
        $this->own();
    }

    /** Takes the account away; its mail stays where it lies. */
    public function withdraw(string $name): void
    {
        $others = array_filter($this->lines(), fn (string $line): bool => ! str_starts_with($line, "$name:"));
        ServerAccount::put("{$this->folder}/users", $others === [] ? '' : implode("\n", $others)."\n");
        $this->own();
    }

    /** @return list<string> the command that is it, for as long as that runs */
    public function command(): array
    {
        return ServerAccount::command(['/usr/sbin/dovecot', '-F', '-c', "{$this->folder}/dovecot.conf"]);
    }

    /** @return list<string> */
    private function lines(): array
    {
        return array_values(array_filter(explode("\n", (string) @file_get_contents("{$this->folder}/users"))));
    }

    public function own(): void
    {
        ServerAccount::own($this->folder);
    }

    private function configuration(): string
    {
        [$uid] = ServerAccount::ids();
        $account = posix_getpwuid($uid)['name'] ?? (string) $uid;
        $own = "service %s {\n  chroot =\n}\n";
        $services = sprintf($own, 'anvil').sprintf($own, 'stats');

        return <<<CONF
            base_dir = {$this->folder}/run
            state_dir = {$this->folder}/state
            log_path = {$this->folder}/dovecot.log
            protocols = imap
            listen = 127.0.0.1
            ssl = no
            disable_plaintext_auth = no
            auth_mechanisms = plain
            auth_failure_delay = 0
            auth_master_user_separator = *
            default_login_user = $account
            default_internal_user = $account
            default_internal_group = {$this->group()}
            first_valid_uid = 0
            first_valid_gid = 0
            mail_location = maildir:{$this->folder}/files/%u/Maildir
            mail_home = {$this->folder}/files/%u
            mail_plugins = quota
            mail_save_crlf = yes
            service imap-login {
              chroot =
              inet_listener imap {
                address = 127.0.0.1
                port = {$this->port}
              }
              inet_listener imaps {
                port = 0
              }
            }
            $services
            passdb {
              driver = passwd-file
              args = {$this->folder}/masters
              master = yes
              result_success = continue
            }
            passdb {
              driver = passwd-file
              args = scheme=PLAIN username_format=%u {$this->folder}/users
            }
            userdb {
              driver = passwd-file
              args = username_format=%u {$this->folder}/users
            }
            namespace inbox {
              inbox = yes
              separator = /
              mailbox Drafts {
                special_use = \\Drafts
                auto = subscribe
              }
              mailbox Sent {
                special_use = \\Sent
                auto = subscribe
              }
              mailbox Trash {
                special_use = \\Trash
                auto = subscribe
              }
            }
            protocol imap {
              mail_plugins = \$mail_plugins imap_quota
            }
            plugin {
              quota = count:User quota
              quota_vsizes = yes
              quota_rule = *:storage=1G
            }

            CONF;
    }

    private function group(): string
    {
        [, $gid] = ServerAccount::ids();

        return posix_getgrgid($gid)['name'] ?? (string) $gid;
    }
}
