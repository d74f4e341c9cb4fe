<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Run;

use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Order\DatabasePoints;
use App\Kinds\Databases\Order\Reach;
use App\Kinds\Databases\Server\DatabaseServer;
use App\Kinds\Databases\Server\ServerLink;
use App\Kinds\Databases\Server\WorkAccount;
use Kaiseki\Core\Database\Identifier;
use Kaiseki\Core\Database\LogFacts;
use Kaiseki\Core\Database\Renaming;
use PDOException;

/**
 * In whose name a view, trigger, routine or event runs that comes out of an archive. An archive may name anybody, and what runs in
 * root's name may do anything: it keeps the account it names only where that account reaches no further than the schema, where the
 * same stands on the server now, or where this desk itself took it from that server. Else it runs in the name of an account that is
 * granted for the schema alone and that nobody can sign in as.
 */
final class Definers
{
    /** @var list<string> */
    public array $remarks = [];

    /** @var array<string, bool> */
    private array $reach = [];

    private ?string $keeper = null;

    /**
     * @param  string  $schema  where they are to stand
     * @param  bool  $isOurs  whether this desk took them from that very server
     */
    public function __construct(private readonly ServerLink $link, private readonly string $schema, private readonly bool $isOurs)
    {
    }

    /** Whether a state came out of sets that this desk made of a server, which is this one. */
    public static function areOurs(Reach $reach, DatabaseServer $target, DatabasePoints $points): bool
    {
        $uid = DatabaseServer::of($reach->dump->workload)->facts['uid'] ?? null;
        $logs = $points->transactions->setsOf(array_map(fn (LogFacts $log): string => $log->file, $reach->logs));

        $areMadeHere = array_filter([$reach->dump, ...$logs], fn ($set): bool => $set->made_in_s === null) === [];

        return $areMadeHere && $uid !== null && $uid === ($target->facts['uid'] ?? '');
    }

    public function settle(Definitions $wanted): Definitions
    {
        $now = $this->standing();
        $settled = [];
        foreach ($wanted->all as $one) {
            $definer = self::definerIn((string) $one['sql']);
            if ($definer !== null && ! $this->mayKeep($definer, $one, $now)) {
                $one['sql'] = Renaming::definer((string) $one['sql'], $this->keeper());
                $this->remarks[] = $this->remark($one, $definer);
            }
            $settled[] = $one;
        }
        $this->remarks = array_values(array_unique($this->remarks));

        return new Definitions($settled);
    }

    /**
     * @param  array<string, mixed>  $one
     * @param  array{string, string}  $definer
     */
    private function remark(array $one, array $definer): string
    {
        $who = implode('@', $definer);
        $now = "runs in the name of {$this->keeper()}, which is granted for {$this->schema} alone";
        if (! $this->exists($definer)) {
            return "There is no account $who there: what ran in its name $now.";
        }

        return strtolower($one['kind'])." {$one['name']} ran in the name of $who, who may do more than {$this->schema}: it $now. "
            .'Look at what it does before you change that.';
    }

    /** @return array<string, string> kind and name => how it is defined on the server now */
    private function standing(): array
    {
        try {
            $all = $this->link->hasSchema($this->schema) ? Definitions::of($this->link, $this->schema)->all : [];
        } catch (CannotRestore) {
            return []; // something there is broken: nothing is known by it
        }

        $standing = [];
        foreach ($all as $one) {
            $standing["{$one['kind']} {$one['name']}"] = (string) $one['sql'];
        }

        return $standing;
    }

    /** @return array{string, string}|null user, host */
    private static function definerIn(string $sql): ?array
    {
        $names = preg_match('/\A\s*CREATE\s[^(]*?\bDEFINER\s*=\s*`((?:[^`]|``)*)`@`((?:[^`]|``)*)`/i', $sql, $m) === 1;

        return $names ? [str_replace('``', '`', $m[1]), str_replace('``', '`', $m[2])] : null;
    }

    /**
     * @param  array{string, string}  $definer
     * @param  array<string, mixed>  $one
     * @param  array<string, string>  $now
     */
    private function mayKeep(array $definer, array $one, array $now): bool
    {
        $stands = ($now["{$one['kind']} {$one['name']}"] ?? null) === $one['sql'];

        return $this->exists($definer) && ($this->isOurs || $stands || ! $this->reachesFurther($definer));
    }

    /** @param  array{string, string}  $definer */
    private function exists(array $definer): bool
    {
        try {
            return $this->link->one('SELECT 1 FROM mysql.user WHERE BINARY user = ? AND host = ?', $definer) !== null;
        } catch (PDOException) {
            return false;
        }
    }

    /** @param  array{string, string}  $definer */
    private function reachesFurther(array $definer): bool
    {
        return $this->reach[implode('@', $definer)] ??= (function () use ($definer): bool {
            try {
                $grants = $this->link->column('SHOW GRANTS FOR '.Identifier::quoted($definer[0]).'@'.Identifier::quoted($definer[1]));
            } catch (PDOException) {
                return true;
            }
            $own = [WorkAccount::pattern($this->schema), Identifier::quoted($this->schema)];
            foreach ($grants as $grant) {
                $isNothing = preg_match('/^GRANT USAGE ON \*\.\* TO (?!.*WITH GRANT OPTION)/', $grant) === 1;
                $name = '`(?:[^`]|``)+`';
                $of = "(?:PROCEDURE |FUNCTION |PACKAGE |TABLE )?($name)\.(?:\*|$name)";
                $isOfOne = preg_match("/^GRANT .+? ON $of TO /", $grant, $m) === 1;
                $isOwn = $isOfOne && in_array($m[1], $own, true);
                if (! $isNothing && ! $isOwn) {
                    return true;
                }
            }

            return false;
        })();
    }

    /** @return string quoted */
    private function keeper(): string
    {
        return $this->keeper ??= (function (): string {
            $account = Identifier::quoted('kaiseki_keeper_'.hash('crc32b', $this->schema)).'@'.Identifier::quoted('localhost');
            $this->link->withoutLog();
            $nobodys = $this->link->text(WorkAccount::password());
            $this->link->exec("CREATE USER IF NOT EXISTS $account IDENTIFIED BY $nobodys ACCOUNT LOCK");
            $this->link->exec('GRANT '.implode(', ', WorkAccount::FILL).' ON '.WorkAccount::pattern($this->schema).".* TO $account");

            return $account;
        })();
    }
}
