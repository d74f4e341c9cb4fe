<?php

declare(strict_types=1);

namespace App\Kinds\Databases\Run;

use App\Instance;
use App\Kinds\Databases\Order\CannotRestore;
use App\Kinds\Databases\Server\CannotReachServer;
use App\Kinds\Databases\Server\ServerLink;
use App\Kinds\Databases\Server\WorkAccount;
use Kaiseki\Core\Database\Identifier;
use Symfony\Component\Process\ExecutableFinder;
use Symfony\Component\Process\Process;

/**
 * A server of our own for one piece of work: reached through a socket only, keeps a log of one schema only, runs no events, and is gone
 * afterwards with all it held. What is rolled forward under its original names can touch nothing else there.
 *
 * Dumps and logs are programs from outside, so nothing that they can name may do more than work in the schemas that are loaded: the
 * one account with power has a name that is drawn anew each time, root has none, and there are no plugins to take up.
 */
final class ThrowAway
{
    /** SIGKILL, where PHP does not know its name. */
    private const KILL = 9;

    /** What dumps and logs need over the whole server, and nothing that reaches out of it: no FILE, no SUPER, no replication. */
    private const LOADER = 'REFERENCES, SET USER, BINLOG ADMIN, BINLOG REPLAY';

    /** The one schema of which a log is kept: what is done to rows in it can be done elsewhere as it stands in the log. */
    public const LOGGED = 'kaiseki_logged';

    /** Bytes on the disk before anything is in it: its own files, and its redo log. */
    public const ROOM = 640 << 20;

    public readonly ServerLink $link;

    /** As an account that may load anything into the schemas that were made for it, and do nothing else. */
    public readonly ServerLink $loader;

    private ?Process $process = null;

    private readonly string $owner;

    /** @param  string  $folder  made anew; what an earlier one left in it is ended and removed */
    private function __construct(private readonly string $folder)
    {
        // The name of a socket may have 107 bytes only: it does not stand in the folder of the work.
        $this->owner = 'desk_'.bin2hex(random_bytes(12));
        $this->link = ServerLink::atSocket(self::socket($folder), $this->owner);
        $this->loader = ServerLink::atSocket(self::socket($folder), 'loader');
    }

    private static function socket(string $folder): string
    {
        return Instance::folder('run').'/t'.substr(hash('sha256', $folder), 0, 12).'.sock';
    }

    /** @throws CannotRestore */
    public static function start(string $folder): self
    {
        self::clear($folder);
        $own = new self($folder);
        if (! is_dir($folder) && ! mkdir($folder, 0700, true)) {
            throw CannotRestore::because("The folder $folder cannot be made.");
        }
        self::run(['cp', '-a', '--reflink=auto', self::template().'/.', "$folder/data"]);
        mkdir("$folder/tmp");
        mkdir("$folder/log");
        mkdir("$folder/plugins");
        $own->process = new Process(self::command($folder), null, ['TZ' => 'UTC'], null, null);
        $own->process->start();
        for ($i = 0; $i < 3000; $i++) {
            if (! $own->process->isRunning()) {
                throw CannotRestore::because('The throw-away server did not start: '.self::lastLines("$folder/errors"));
            }
            try {
                $own->takeOver(ServerLink::atSocket(self::socket($folder)));

                return $own;
            } catch (CannotReachServer) {
                usleep(10_000);
            }
        }
        $own->stop();
        throw CannotRestore::because('The throw-away server did not answer within 30 s: '.self::lastLines("$folder/errors"));
    }

    /**
     * Reached by a socket alone, with room for a folder of its own, and in no hurry to write what is thrown away.
     *
     * @return list<string>
     */
    private static function command(string $folder): array
    {
        return [
            self::program(),
            '--no-defaults',
            '--user='.self::user(),
            "--datadir=$folder/data",
            "--tmpdir=$folder/tmp",
            '--socket='.self::socket($folder),
            "--pid-file=$folder/pid",
            '--skip-networking',
            "--log-bin=$folder/log/rows",
            '--binlog-do-db='.self::LOGGED,
            '--binlog-format=ROW',
            '--binlog-row-image=FULL',
            '--binlog-annotate-row-events=OFF',
            '--sync-binlog=0',
            '--log-bin-trust-function-creators=1',
            '--skip-name-resolve',
            '--event-scheduler=OFF',
            '--innodb-flush-log-at-trx-commit=0',
            '--innodb-doublewrite=0',
            '--innodb-log-file-size=512M',
            '--innodb-max-dirty-pages-pct=99',
            '--innodb-flush-method=nosync',
            '--innodb-buffer-pool-size='.self::memory(),
            '--max-allowed-packet=1G',
            '--performance-schema=0',
            '--local-infile=0',
            "--plugin-dir=$folder/plugins",
            '--skip-symbolic-links',
            '--secure-file-priv='.$folder.'/tmp',
            '--character-set-server=utf8mb4',
            '--innodb-strict-mode=OFF',
            "--log-error=$folder/errors",
        ];
    }

    /** Leaves one account with power, and its name to nobody. */
    private function takeOver(ServerLink $root): void
    {
        $root->exec("CREATE USER {$this->owner}@localhost");
        $root->exec("GRANT ALL ON *.* TO {$this->owner}@localhost WITH GRANT OPTION");
        foreach ($this->link->rows('SELECT user AS user, host AS host FROM mysql.user WHERE user <> ?', [$this->owner]) as $other) {
            $this->link->exec(
                'DROP USER '.Identifier::quoted((string) $other['user']).'@'.Identifier::quoted((string) $other['host']),
            );
        }
        $root->again();
        $this->link->exec('CREATE USER root@localhost, loader@localhost');
        $this->link->exec('GRANT '.self::LOADER.' ON *.* TO loader@localhost');
    }

    /** A schema that may be loaded into; also in the name of root, whom most definitions name. */
    public function admit(string $schema): void
    {
        if (! $this->link->hasSchema($schema)) {
            $this->link->createSchema($schema);
        }
        $rights = implode(', ', WorkAccount::FILL);
        $this->link->exec("GRANT $rights ON ".WorkAccount::pattern($schema).'.* TO loader@localhost, root@localhost');
    }

    /** Removes what a killed piece of work left. */
    public static function clear(string $folder): void
    {
        $pid = (int) @file_get_contents("$folder/pid");
        if ($pid > 1 && str_contains((string) @file_get_contents("/proc/$pid/cmdline"), "$folder/data")) {
            posix_kill($pid, self::KILL);
            for ($i = 0; $i < 100 && is_dir("/proc/$pid"); $i++) {
                usleep(20_000);
            }
        }
        if (is_dir($folder)) {
            self::run(['rm', '-rf', $folder]);
        }
        @unlink(self::socket($folder));
    }

    public function stop(): void
    {
        $this->link->again();
        // Nothing in it is to be kept, so it need not close well.
        $this->process?->stop(0, self::KILL);
        $this->process = null;
        self::clear($this->folder);
    }

    public function __destruct()
    {
        if ($this->process !== null) {
            $this->stop();
        }
    }

    /** Of the server that works here, such as 10.11.19-MariaDB; '' if there is none. */
    public static function version(): string
    {
        $process = new Process([self::program(), '--version']);
        $process->run();

        return preg_match('/Ver (\S+)/', $process->getOutput(), $m) === 1 ? $m[1] : '';
    }

    /** A server's program is not on everybody's path. */
    private static function program(): string
    {
        return (new ExecutableFinder)->find('mariadbd', '/usr/sbin/mariadbd', ['/usr/sbin', '/usr/local/sbin']) ?? '/usr/sbin/mariadbd';
    }

    /** Made once for each version of the server: an empty one with the time zones known. */
    private static function template(): string
    {
        $version = self::version();
        $template = Instance::folder('cache').'/database-'.substr(hash('sha256', $version), 0, 12);
        $lock = fopen("$template.lock", 'c');
        if ($lock === false || ! flock($lock, LOCK_EX)) {
            throw CannotRestore::because("$template.lock cannot be written.");
        }
        if (! is_dir($template)) {
            self::run(['rm', '-rf', "$template.new"]);
            self::run([
                'mariadb-install-db',
                '--no-defaults',
                '--user='.self::user(),
                "--datadir=$template.new",
                '--basedir=/usr',
                '--tmpdir='.dirname($template), // in /tmp another server behind other walls may have the same names
                '--auth-root-authentication-method=normal',
                '--skip-test-db',
                '--skip-name-resolve',
                '--innodb-log-file-size=8M',
            ]);
            self::knowZones("$template.new");
            rename("$template.new", $template);
        }
        fclose($lock);

        return $template;
    }

    /** Else a definition with a named zone fails with 1298. */
    private static function knowZones(string $data): void
    {
        if (! is_dir('/usr/share/zoneinfo')) {
            return;
        }
        $zones = new Process(['mariadb-tzinfo-to-sql', '--skip-write-binlog', '/usr/share/zoneinfo'], null, null, null, null);
        $zones->run();
        if ($zones->isSuccessful()) {
            // The first statements of the bootstrap mode stand on one line each.
            (new Process(
                [
                    self::program(),
                    '--no-defaults',
                    '--bootstrap',
                    '--user='.self::user(),
                    "--datadir=$data",
                    '--basedir=/usr',
                    '--skip-networking',
                    '--innodb-log-file-size=8M',
                ],
                null,
                null,
                "USE mysql;\n".self::withoutClientCommands($zones->getOutput()),
                null,
            ))->run();
        }
    }

    private static function withoutClientCommands(string $sql): string
    {
        return preg_replace('/^(?:\\\\d|delimiter)[^\n]*\n/mi', '', $sql) ?? '';
    }

    /** @param  list<string>  $command */
    private static function run(array $command): void
    {
        $process = new Process($command, null, null, null, null);
        $process->run();
        if (! $process->isSuccessful()) {
            throw CannotRestore::because(basename($command[0]).' failed: '.mb_scrub(trim(substr($process->getErrorOutput(), -1000))));
        }
    }

    private static function user(): string
    {
        return posix_getpwuid(posix_geteuid())['name'] ?? 'root';
    }

    /** An eighth of the machine's memory, between 128 MiB and 1 GiB. */
    private static function memory(): string
    {
        preg_match('/^MemTotal:\s+(\d+)/m', (string) @file_get_contents('/proc/meminfo'), $m);

        return max(128, min(1024, intdiv((int) ($m[1] ?? 0), 8192))).'M';
    }

    private static function lastLines(string $file): string
    {
        return mb_scrub(implode(' ', array_slice(explode("\n", trim((string) @file_get_contents($file))), -5)));
    }
}
