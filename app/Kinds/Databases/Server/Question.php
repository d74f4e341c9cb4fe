<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Server;

use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Order\DatabaseOrder;
use Kaiseki\Core\Database\Identifier;
use PDO;
use PDOException;

/**
 * A question of the operator's own, asked of a server before and after a run. It may be any text, so nothing is built on how it
 * reads: it is one statement, by an account that can do nothing but SELECT in the schemas of the order (made for the occasion, or
 * named with the server), in a transaction that only reads, for a minute at most.
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
            $how = "kaiseki server add {$server->name} --asking-user=";

            return $mayGrant ? null : "no account that can only read can be made on {$server->name}: name one with $how";
        }

        return self::canDoMore(self::named($server));
    }

    /** Why an account is not one that can only read; null if it is. */
    public static function canDoMore(ServerLink $link): ?string
    {
        $name = '(?:`(?:[^`]|``)+`|\*)';
        foreach ($link->column('SHOW GRANTS') as $grant) {
            $isPlain = preg_match("/^GRANT (.+?) ON $name\.$name TO (?!.* WITH GRANT OPTION)/", $grant, $m) === 1;
            if (! $isPlain || array_diff(self::privilegesIn($m[1]), self::HARMLESS) !== []) {
                $shown = preg_replace('/ IDENTIFIED BY .*/', '', $grant) ?? '';

                return "the account by which questions are asked can do more than read: $shown";
            }
        }

        return null;
    }

    /** @return list<string> without the columns that they are for */
    private static function privilegesIn(string $granted): array
    {
        return array_map(trim(...), explode(',', preg_replace('/ \([^)]*\)/', '', $granted) ?? $granted));
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
                $account = WorkAccount::make($owner, $this->purpose, WorkAccount::READ, $this->schemas());
            }
            $link = $account === null ? self::named($server) : $account->link;
            $because = self::canDoMore($link);
            if ($because !== null) {
                return ['error' => ucfirst($because), 'rows' => []];
            }

            return ['rows' => $this->ask($link, $isAfter ? array_values($this->order->schemas)[0] : $this->schemas()[0])];
        } catch (PDOException|CannotRestore|CannotReachServer $failure) {
            return ['error' => mb_scrub($failure->getMessage()), 'rows' => []];
        } finally {
            $account?->end();
        }
    }

    /** @return list<string> of the order, as they were called and as they are to be */
    private function schemas(): array
    {
        $were = array_map(strval(...), array_keys($this->order->schemas));

        return array_values(array_unique([...$were, ...array_values($this->order->schemas)]));
    }

    private static function shown(?string $value): ?string
    {
        return $value === null ? null : mb_strcut(mb_scrub($value), 0, self::VALUE);
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
            $rows[] = array_map(self::shown(...), array_slice($row, 0, self::COLUMNS));
        }
        $statement->closeCursor();

        return $rows;
    }
}
