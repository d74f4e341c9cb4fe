<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Server;

use App\Kinds\Databases\Order\CannotRestore;
use Kaiseki\Core\Database\Identifier;
use PDOException;

/**
 * An account at a database server for one piece of work of one run: granted for the schemas it is about and for nothing else, and gone
 * after it. Whatever comes out of an archive reaches a server that others use by such an account only.
 */
final readonly class WorkAccount
{
    /** To fill a schema of its own, whatever is in it. */
    public const FILL = [
        'SELECT', 'INSERT', 'UPDATE', 'DELETE', 'CREATE', 'DROP', 'ALTER', 'INDEX', 'REFERENCES', 'LOCK TABLES', 'TRIGGER', 'EVENT',
        'CREATE VIEW', 'SHOW VIEW', 'CREATE ROUTINE', 'ALTER ROUTINE', 'EXECUTE', 'CREATE TEMPORARY TABLES', 'DELETE HISTORY',
    ];

    /** To ask. */
    public const READ = ['SELECT', 'SHOW VIEW'];

    private const NO_SUCH_PRIVILEGE = [1045, 1044, 1227, 1142];

    /** @param  string  $account  quoted */
    private function __construct(private ServerLink $owner, private string $account, public ServerLink $link)
    {
    }

    /**
     * @param  list<string>  $privileges
     * @param  list<string>  $schemas
     * @param  list<string>  $mayBeLacking  privileges over the whole server that it gets where the known account has them to give
     *
     * @throws CannotRestore if the known account may not make another
     */
    public static function make(ServerLink $owner, string $purpose, array $privileges, array $schemas, array $mayBeLacking = []): self
    {
        $password = self::password();
        $account = self::named($owner, $purpose);
        try {
            $owner->withoutLog();
            $owner->exec("DROP USER IF EXISTS $account"); // of an attempt that was killed
            $owner->exec("CREATE USER $account IDENTIFIED BY ".$owner->text($password));
            foreach ($schemas as $schema) {
                $owner->exec('GRANT '.implode(', ', $privileges).' ON '.self::pattern($schema).".* TO $account");
            }
        } catch (PDOException $failure) {
            throw self::refused($owner, $failure);
        }
        foreach ($mayBeLacking as $privilege) {
            self::tryGrant($owner, $privilege, $account);
        }

        return new self($owner, $account, $owner->as(self::name($purpose), $password));
    }

    private static function tryGrant(ServerLink $owner, string $privilege, string $account): void
    {
        try {
            $owner->exec("GRANT $privilege ON *.* TO $account");
        } catch (PDOException $failure) {
            if (! in_array((int) ($failure->errorInfo[1] ?? 0), self::NO_SUCH_PRIVILEGE, true)) {
                throw $failure;
            }
        }
    }

    private static function refused(ServerLink $owner, PDOException $failure): CannotRestore
    {
        return CannotRestore::because(
            "The account by which {$owner->name} is known may not make one for this run alone, and by no other is anything out "
            .'of an archive brought there: '.mb_scrub($failure->getMessage())
            .'. Grant it CREATE USER, and its own rights WITH GRANT OPTION.',
        );
    }

    /** Of every kind of character, as servers may demand. */
    public static function password(): string
    {
        return 'Aa9-'.bin2hex(random_bytes(16));
    }

    /** Also of others, that reference what is in these schemas. */
    public function mayReference(string $schema): void
    {
        $this->owner->exec('GRANT REFERENCES ON '.self::pattern($schema).".* TO {$this->account}");
    }

    public function end(): void
    {
        self::drop($this->owner, $this->account);
        $this->link->again();
    }

    /** Ends what an attempt that was killed left. */
    public static function clear(ServerLink $owner, string ...$purposes): void
    {
        foreach ($purposes as $purpose) {
            self::drop($owner, self::named($owner, $purpose));
        }
    }

    private static function drop(ServerLink $owner, string $account): void
    {
        try {
            $owner->withoutLog();
            $owner->exec("DROP USER IF EXISTS $account");
            $owner->exec("KILL USER $account");
        } catch (PDOException) {
            // No connection of it was left, or the server is gone: the next attempt of the same run drops it.
        }
    }

    private static function name(string $purpose): string
    {
        return "kaiseki_$purpose";
    }

    /** As it comes in from here, and from nowhere else. */
    private static function named(ServerLink $owner, string $purpose): string
    {
        $host = (string) $owner->one("SELECT SUBSTRING_INDEX(USER(), '@', -1)");

        return Identifier::quoted(self::name($purpose)).'@'.Identifier::quoted($host);
    }

    /** The name of a schema where a grant takes patterns. */
    public static function pattern(string $schema): string
    {
        return Identifier::quoted(addcslashes($schema, '_%\\'));
    }
}
