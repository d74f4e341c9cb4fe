<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Server;

use App\Kinds\Databases\Order\CannotRestore;
use Kaiseki\Core\Database\Identifier;
use Kaiseki\Core\Database\LogPosition;
use PDO;
use PDOException;
use PDOStatement;

/** A connection to a database server, and what the ordinary tools need to connect to the same. */
final class ServerLink
{
    public const OWN_SCHEMAS = ['mysql', 'information_schema', 'performance_schema', 'sys'];

    /** Bytes of the longest statement that a server can be told to take. */
    private const LONGEST = 1 << 30;

    /** Whether its limit was raised for a while. */
    public bool $tookLongRows = false;

    private ?PDO $pdo = null;

    private function __construct(
        public readonly string $name,
        private readonly string $host,
        private readonly int $port,
        private readonly string $socket,
        private readonly string $user,
        private readonly string $password,
        /** Whether it writes a binary log, which our work there must not fill. */
        public bool $keepsLog,
    ) {
    }

    /** @throws CannotReachServer */
    public static function to(DatabaseServer $server): self
    {
        $link = new self($server->name, $server->host, $server->port, '', $server->user, $server->password, false);
        $link->keepsLog = $link->one('SELECT @@log_bin') === '1';

        return $link;
    }

    /** The same server, as another account. */
    public function as(string $user, string $password): self
    {
        return new self($this->name, $this->host, $this->port, $this->socket, $user, $password, $this->keepsLog);
    }

    /** One of our own, through its socket. */
    public static function atSocket(string $socket, string $user = 'root'): self
    {
        return new self('a throw-away server', '', 0, $socket, $user, '', false);
    }

    public function pdo(): PDO
    {
        if ($this->pdo !== null) {
            return $this->pdo;
        }
        $where = $this->socket === '' ? "host={$this->host};port={$this->port}" : "unix_socket={$this->socket}";
        try {
            $this->pdo = new PDO("mysql:$where;charset=utf8mb4", $this->user, $this->password, [
                PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION,
                PDO::ATTR_TIMEOUT => 5,
                PDO::ATTR_STRINGIFY_FETCHES => true,
                PDO::ATTR_EMULATE_PREPARES => true,
                PDO::MYSQL_ATTR_MULTI_STATEMENTS => false,
                PDO::MYSQL_ATTR_LOCAL_INFILE => false,
            ]);
            $this->pdo->exec("SET time_zone = '+00:00', sql_mode = 'NO_AUTO_VALUE_ON_ZERO', wait_timeout = 28800, lock_wait_timeout = 20");
        } catch (PDOException $failure) {
            throw CannotReachServer::named($this->name, self::plain($failure));
        }

        return $this->pdo;
    }

    private static function plain(PDOException $failure): string
    {
        return match ((int) $failure->getCode()) {
            2002 => 'nothing answers at its address and port. Is it running, and reachable from here?',
            1045 => 'it refuses the user or the password.',
            1130 => 'it does not let this host in.',
            default => mb_scrub($failure->getMessage()),
        };
    }

    /** Opens a connection anew: the old one may have been ended while a tool worked. */
    public function again(): void
    {
        $this->pdo = null;
    }

    public function exec(string $sql): int
    {
        return (int) $this->pdo()->exec($sql);
    }

    /**
     * @param  list<string|int|null>  $values
     * @return list<array<string, string|null>>
     */
    public function rows(string $sql, array $values = []): array
    {
        return $this->query($sql, $values)->fetchAll(PDO::FETCH_ASSOC);
    }

    /**
     * @param  list<string|int|null>  $values
     * @return list<string>
     */
    public function column(string $sql, array $values = []): array
    {
        return array_map(strval(...), $this->query($sql, $values)->fetchAll(PDO::FETCH_COLUMN));
    }

    /** @param  list<string|int|null>  $values */
    public function one(string $sql, array $values = []): ?string
    {
        $value = $this->query($sql, $values)->fetchColumn();

        return $value === false || $value === null ? null : (string) $value;
    }

    /** @param  list<string|int|null>  $values */
    public function query(string $sql, array $values = []): PDOStatement
    {
        $statement = $this->pdo()->prepare($sql);
        $statement->execute($values);

        return $statement;
    }

    /** In quotes, for a statement. */
    public function text(string $value): string
    {
        return (string) $this->pdo()->quote($value);
    }

    /** Our own work is not to be replicated, nor to fill the log: for this connection. */
    public function withoutLog(): void
    {
        if ($this->keepsLog) {
            $this->exec('SET SESSION sql_log_bin = 0');
        }
    }

    /** Where its log ends; null if it keeps none. */
    public function logEnd(): ?LogPosition
    {
        $row = $this->rows('SHOW MASTER STATUS')[0] ?? null;

        return $row === null ? null : new LogPosition((string) $row['File'], (int) $row['Position']);
    }

    /**
     * Does something that is not to be in the log; again with longer statements allowed, where a row is too long for one. The server's
     * own limit returns.
     *
     * @template T
     *
     * @param  callable(): T  $work  that can be begun anew
     * @return T
     *
     * @throws CannotRestore
     */
    public function withLongRows(callable $work): mixed
    {
        try {
            return $work();
        } catch (CannotRestore $cannot) {
            if (! $cannot->isForLength) {
                throw $cannot;
            }
        }
        $limit = (int) $this->one('SELECT @@GLOBAL.max_allowed_packet');
        try {
            $this->exec('SET GLOBAL max_allowed_packet = '.self::LONGEST);
        } catch (PDOException) {
            throw $cannot; // the account may not
        }
        try {
            $this->tookLongRows = true;
            $this->again();
            $this->withoutLog();

            return $work();
        } finally {
            $this->exec("SET GLOBAL max_allowed_packet = $limit");
        }
    }

    public function hasSchema(string $schema): bool
    {
        return $this->one('SELECT 1 FROM information_schema.schemata WHERE BINARY schema_name = ?', [$schema]) !== null;
    }

    /** @return list<string> that are not the server's own */
    public function schemas(): array
    {
        return array_values(
            array_diff($this->column('SELECT schema_name FROM information_schema.schemata ORDER BY schema_name'), self::OWN_SCHEMAS),
        );
    }

    public function createSchema(string $name, string $like = ''): void
    {
        $this->exec('CREATE DATABASE '.Identifier::quoted($name).' '.$like);
    }

    /** @return list<string> what mariadb, mariadb-dump and mariadb-check are told before all else; the password is in the environment */
    public function arguments(): array
    {
        return [
            '--no-defaults',
            ...$this->socket === '' ? ['--protocol=tcp', "--host={$this->host}", "--port={$this->port}"] : ["--socket={$this->socket}"],
            "--user={$this->user}",
            '--default-character-set=utf8mb4',
        ];
    }

    /** @return array<string, string> */
    public function environment(): array
    {
        return ['MYSQL_PWD' => $this->password, 'TZ' => 'UTC', 'LC_ALL' => 'C.UTF-8'];
    }
}
