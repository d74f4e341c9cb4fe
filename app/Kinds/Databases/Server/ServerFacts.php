<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Server;

/** What a server says of itself. */
final readonly class ServerFacts
{
    /**
     * @param  list<string>  $privileges  held everywhere; ["ALL"] for all
     * @param  list<string>  $replicas  that are attached to it: host and server id
     */
    private function __construct(
        public string $version,
        public int $serverId,
        public string $uid,
        public bool $keepsLog,
        public string $logFormat,
        public string $rowImage,
        public bool $annotates,
        public string $sqlMode,
        public string $charset,
        public string $zone,
        public string $gtid,
        public array $privileges,
        public array $replicas,
        public string $account,
        public int $lowerCase,
        /** Whether it may make an account for one piece of work, and grant it what it has itself. */
        public bool $mayGrant,
    ) {
    }

    /** @throws CannotReachServer */
    public static function ask(ServerLink $link): self
    {
        $row = $link->rows('SELECT VERSION() AS version, @@server_id AS id, @@server_uid AS uid, @@log_bin AS log,
            @@binlog_format AS format, @@binlog_row_image AS image, @@binlog_annotate_row_events AS annotates,
            @@GLOBAL.sql_mode AS mode, CONCAT(@@character_set_server, "/",
            @@collation_server) AS charset, CONCAT(@@GLOBAL.time_zone, " (", @@system_time_zone, ")") AS zone, @@gtid_binlog_pos AS gtid,
            CURRENT_USER() AS account, @@lower_case_table_names AS lower_case')[0];
        [$privileges, $mayGrant] = self::privilegesOf($link);
        $replicas = [];
        try {
            foreach ($link->rows('SHOW SLAVE HOSTS') as $replica) {
                $replicas[] = trim(($replica['Host'] ?? '').' (server '.($replica['Server_id'] ?? '?').')');
            }
        } catch (\PDOException) {
            // The account may not see them.
        }

        return new self(
            (string) $row['version'],
            (int) $row['id'],
            (string) $row['uid'],
            $row['log'] === '1',
            (string) $row['format'],
            (string) $row['image'],
            $row['annotates'] === '1',
            (string) $row['mode'],
            (string) $row['charset'],
            (string) $row['zone'],
            (string) $row['gtid'],
            $privileges,
            $replicas,
            (string) $row['account'],
            (int) $row['lower_case'],
            $mayGrant,
        );
    }

    /** @return array{list<string>, bool} those held everywhere, and whether they may be granted to an account that it makes */
    private static function privilegesOf(ServerLink $link): array
    {
        foreach ($link->column('SHOW GRANTS') as $grant) {
            if (preg_match('/^GRANT (.+) ON \*\.\* TO /', $grant, $m) === 1) {
                $privileges = str_starts_with($m[1], 'ALL PRIVILEGES') ? ['ALL'] : array_map(trim(...), explode(',', $m[1]));

                $mayMake = $privileges === ['ALL'] || in_array('CREATE USER', $privileges, true);

                return [$privileges, $mayMake && str_contains($grant, ' WITH GRANT OPTION')];
            }
        }

        return [[], false];
    }

    /**
     * @param  list<string>  $needed
     * @return list<string> those of them that the account lacks
     */
    public function lacking(array $needed): array
    {
        return $this->privileges === ['ALL'] ? [] : array_values(array_diff($needed, $this->privileges));
    }

    /** Major and minor, such as 10.11. */
    public static function release(string $version): string
    {
        return preg_match('/^(?:5\.5\.5-)?(\d+\.\d+)/', $version, $m) === 1 ? $m[1] : '0.0';
    }

    /** @return list<string> what keeps this server from being brought to any moment */
    public function warnings(): array
    {
        return array_values(
            array_filter([
                $this->keepsLog ? null : 'It keeps no binary log: only the moments of its dumps can be restored (log_bin).',
                $this->keepsLog && $this->logFormat !== 'ROW'
                    ? "Its log format is {$this->logFormat}: rows can be brought back one by one only with ROW (binlog_format)."
                    : null,
                $this->keepsLog && $this->rowImage !== 'FULL'
                    ? "Its row images are {$this->rowImage}: a transaction can be reversed only with FULL (binlog_row_image)."
                    : null,
                $this->keepsLog && ! $this->annotates
                    ? 'It does not log the statements beside their rows (binlog_annotate_row_events).'
                    : null,
            ]),
        );
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return get_object_vars($this);
    }
}
