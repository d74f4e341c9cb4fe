<?php

declare(strict_types=1);

namespace Kaiseki\StandIns;

use RuntimeException;

/** A server of calendars and contacts in small: Radicale on loopback, whose collections lie beside the mailboxes of MailServer. */
final readonly class CalendarServer
{
    /** The account that may open everybody's. */
    public const MASTER = 'desk';

    private function __construct(public string $folder, public int $port)
    {
    }

    /**
     * Writes what it needs.
     *
     * @param  string  $folder  its collections lie in files/collection-root of it
     */
    public static function in(string $folder, int $port, #[\SensitiveParameter] string $masterPassword): self
    {
        $server = new self($folder, $port);
        is_dir("$folder/files/collection-root") || mkdir("$folder/files/collection-root", 0700, true);
        ServerAccount::put("$folder/calendar.conf", $server->configuration());
        ServerAccount::put("$folder/calendar-users", self::MASTER.":$masterPassword\n");
        ServerAccount::put("$folder/calendar-rights", self::rights());
        ServerAccount::own($folder);

        return $server;
    }

    /** The calendars and contacts of somebody who has none yet. */
    public function home(string $name): void
    {
        preg_match('/^[a-z0-9.@+-]{1,100}$/D', $name) === 1 || throw new RuntimeException("$name is no name of a mailbox");
        $folder = "{$this->folder}/files/collection-root/$name";
        is_dir($folder) || mkdir($folder, 0700, true);
        ServerAccount::own($folder);
    }

    /** @return list<string> the command that is it, for as long as that runs */
    public function command(): array
    {
        return ServerAccount::command(['/usr/bin/radicale', '--config', "{$this->folder}/calendar.conf"]);
    }

    private static function rights(): string
    {
        $master = self::MASTER;

        return <<<RIGHTS
            [desk]
            user: $master
            collection: .*
            permissions: RrWw

            RIGHTS;
    }

    private function configuration(): string
    {
        return <<<CONF
            [server]
            hosts = 127.0.0.1:{$this->port}
            max_connections = 20
            timeout = 60

            [auth]
            type = htpasswd
            htpasswd_filename = {$this->folder}/calendar-users
            htpasswd_encryption = plain
            delay = 0

            [rights]
            type = from_file
            file = {$this->folder}/calendar-rights

            [storage]
            filesystem_folder = {$this->folder}/files

            [web]
            type = none

            [logging]
            level = warning

            CONF;
    }
}
