<?php

declare(strict_types=1);

namespace App\Databases;

use App\Models\DatabaseServer;
use Kaiseki\Core\Database\Identifier;
use PDO;
use PDOException;

/**
 * A question of the operator's own, asked of a server before and after a run. It may be any text, so nothing is built on how it reads:
 * it is one statement, by an account that can do nothing but SELECT in the schemas of the order (made for the occasion, or named with
 * the server), in a transaction that only reads, for a minute at most.
 */
final readonly class Question
{
    private const SECONDS = 60;

    private const ROWS = 100;

    private const COLUMNS = 50;

    private const VALUE = 500;

    /** What an account may have by which questions are asked. FILE, SUPER and the like are not among them. */
    private const HARMLESS = ['USAGE', 'SELECT', 'SHOW VIEW', 'SHOW DATABASES'];

    /** @param  string  $purpose  names the account that is made for it */
    public function __construct(private DatabaseOrder $order, private string $purpose)
    {
    }

    /**
     * Why no question can be asked of a server; null if one can.
     *
     * @param  bool  $mayGrant  whether an account can be made there
     *
     * @throws CannotReachServer
     */
    public static function unfit(DatabaseServer $server, bool $mayGrant): ?string
    {
        if ($server->asking_user === null) {
            return $mayGrant ? null : "no account that can only read can be made on {$server->name}: name one with kaiseki server add {$server->name} --asking-user=";
        }

        return self::canDoMore(self::named($server));
    }

    /** Why an account is not one that can only read; null if it is. */
    public static function canDoMore(ServerLink $link): ?string
    {
        foreach ($link->column('SHOW GRANTS') as $grant) {
            $isRead = preg_match('/^GRANT (.+?) ON (?:`(?:[^`]|``)+`|\*)\.(?:`(?:[^`]|``)+`|\*) TO (?!.* WITH GRANT OPTION)/', $grant, $m) === 1
                && array_diff(array_map(trim(...), preg_split('/,(?![^(]*\))/', preg_replace('/^SELECT \([^)]*\)$/', 'SELECT', $m[1]) ?? $m[1]) ?: []), self::HARMLESS) === [];
            if (! $isRead) {
                return 'the account by which questions are asked can do more than read: '.(preg_replace('/ IDENTIFIED BY .*/', '', $grant) ?? '');
            }
        }

        return null;
    }

    private static function named(DatabaseServer $server): ServerLink
    {
        return ServerLink::to($server)->as((string) $server->asking_user, (string) $server->asking_password);
    }

    /** @return array{rows: list<array<string, string|null>>, error?: string} */
    public function answer(bool $isAfter): array
    {
        $server = $this->order->server();
        $account = null;
        try {
            $owner = ServerLink::to($server);
            if ($server->asking_user === null) {
                $account = WorkAccount::make($owner, $this->purpose, WorkAccount::READ, array_values(array_unique([...array_map(strval(...), array_keys($this->order->schemas)), ...array_values($this->order->schemas)])));
            }
            $link = $account === null ? self::named($server) : $account->link;
            $because = self::canDoMore($link);
            if ($because !== null) {
                return ['error' => ucfirst($because), 'rows' => []];
            }

            return ['rows' => $this->ask($link, $isAfter ? array_values($this->order->schemas)[0] : (string) array_key_first($this->order->schemas))];
        } catch (PDOException|CannotRestore|CannotReachServer $failure) {
            return ['error' => mb_scrub($failure->getMessage()), 'rows' => []];
        } finally {
            $account?->end();
        }
    }

    /** @return list<array<string, string|null>> the first of them */
    private function ask(ServerLink $link, string $schema): array
    {
        $link->exec('SET SESSION max_statement_time = '.self::SECONDS.', sql_select_limit = '.self::ROWS.', lock_wait_timeout = 5');
        if ($link->hasSchema($schema)) {
            $link->exec('USE '.Identifier::quoted($schema));
        }
        $link->exec('START TRANSACTION READ ONLY');
        $link->pdo()->setAttribute(PDO::MYSQL_ATTR_USE_BUFFERED_QUERY, false);
        $statement = $link->pdo()->query($this->order->query);
        $rows = [];
        while (count($rows) < self::ROWS && ($row = $statement->fetch(PDO::FETCH_ASSOC)) !== false) {
            $rows[] = array_map(fn (?string $value): ?string => $value === null ? null : mb_strcut(mb_scrub($value), 0, self::VALUE), array_slice($row, 0, self::COLUMNS));
        }
        $statement->closeCursor();

        return $rows;
    }
}
