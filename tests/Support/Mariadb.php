<?php

declare(strict_types=1);

namespace Tests\Support;

use PDO;
use PDOException;
use RuntimeException;
use Symfony\Component\Process\Process;

/** A database server of the test's own, with binary logs, and the ordinary tools to back it up with. */
final class Mariadb
{
    public const PASSWORD = 'quay-side-7';

    public readonly int $port;

    public readonly PDO $pdo;

    private Process $process;

    private static ?string $template = null;

    /** @param  list<string>  $options */
    public function __construct(private readonly string $folder, int $id = 2, array $options = [])
    {
        self::$template ??= self::template();
        (new Process(['cp', '-a', self::$template, $folder]))->mustRun();
        is_dir("$folder.tmp") || mkdir("$folder.tmp", 0700); // one that starts removes what others have in a folder that they share
        $probe = stream_socket_server('tcp://127.0.0.1:0') ?: throw new RuntimeException('no free port');
        $this->port = (int) substr((string) strrchr((string) stream_socket_get_name($probe, false), ':'), 1);
        fclose($probe);
        $this->process = new Process(
            [
                'mariadbd',
                '--no-defaults',
                '--user='.get_current_user(),
                "--datadir=$folder",
                "--socket=$folder/s.sock",
                "--tmpdir=$folder.tmp",
                "--port={$this->port}",
                '--bind-address=127.0.0.1',
                '--skip-name-resolve',
                "--server-id=$id",
                "--pid-file=$folder/pid",
                "--log-error=$folder/log",
                "--log-bin=$folder/binlog",
                '--binlog-format=ROW',
                '--binlog-row-image=FULL',
                '--sync-binlog=0',
                '--innodb-flush-log-at-trx-commit=0',
                '--innodb-flush-method=nosync',
                '--innodb-doublewrite=0',
                '--sync-frm=0',
                '--innodb-log-file-size=48M',
                '--innodb-buffer-pool-size=64M',
                '--character-set-server=utf8mb4',
                ...$options,
            ],
            null,
            null,
            null,
            null,
        );
        $this->process->start();
        for ($i = 0; ; $i++) {
            try {
                $this->pdo = new PDO("mysql:unix_socket=$folder/s.sock;charset=utf8mb4", 'root', '', [
                    PDO::ATTR_ERRMODE => PDO::ERRMODE_EXCEPTION,
                    PDO::ATTR_STRINGIFY_FETCHES => true,
                ]);
                break;
            } catch (PDOException $notYet) {
                if ($i > 600) {
                    throw new RuntimeException('the server did not start: '.file_get_contents("$folder/log"));
                }
                usleep(50_000);
            }
        }
        $this->pdo->exec(
            "CREATE USER keeper@'127.0.0.1' IDENTIFIED BY '".
                self::PASSWORD.
                "'; GRANT ALL ON *.* TO keeper@'127.0.0.1' WITH GRANT OPTION",
        );
    }

    private static function template(): string
    {
        $folder = sys_get_temp_dir().'/kaiseki-mariadb-'.getmypid();
        (new Process(
            [
                'mariadb-install-db',
                '--no-defaults',
                '--user='.get_current_user(),
                "--datadir=$folder",
                '--basedir=/usr',
                '--auth-root-authentication-method=normal',
                '--skip-test-db',
                '--skip-name-resolve',
                '--innodb-log-file-size=8M',
                '--innodb-flush-method=nosync',
            ],
            null,
            null,
            null,
            null,
        ))->mustRun();
        register_shutdown_function(fn () => (new Process(['rm', '-rf', $folder]))->run());

        return $folder;
    }

    public function exec(string ...$statements): void
    {
        foreach ($statements as $statement) {
            $this->pdo->exec($statement);
        }
    }

    /** @return list<array<string, string|null>> */
    public function rows(string $sql): array
    {
        return $this->pdo->query($sql)->fetchAll(PDO::FETCH_ASSOC);
    }

    public function one(string $sql): ?string
    {
        $value = $this->pdo->query($sql)->fetchColumn();

        return $value === false ? null : $value;
    }

    /** The GTID of what was committed last. */
    public function gtid(): string
    {
        return (string) $this->one('SELECT @@gtid_binlog_pos');
    }

    /** @return array{string, int} file and position behind what was committed last */
    public function position(): array
    {
        $row = $this->rows('SHOW MASTER STATUS')[0];

        return [(string) $row['File'], (int) $row['Position']];
    }

    /** Makes it known to the application, under its own name. */
    public function addTo(\Tests\TestCase $test, string $name): void
    {
        putenv('KAISEKI_SERVER_PASSWORD='.self::PASSWORD);
        $answer = $test->kaiseki('server', 'add', $name, '--host=127.0.0.1', "--port={$this->port}", '--user=keeper');
        putenv('KAISEKI_SERVER_PASSWORD');
        if ($answer->code !== 0) {
            throw new RuntimeException($answer->text);
        }
    }

    public function dump(string $file, string ...$what): void
    {
        (new Process(
            [
                'mariadb-dump',
                '--no-defaults',
                "--socket={$this->folder}/s.sock",
                '--user=root',
                '--default-character-set=utf8mb4',
                '--single-transaction',
                '--routines',
                '--triggers',
                '--events',
                '--hex-blob',
                '--master-data=2',
                '--gtid',
                "--result-file=$file",
                ...$what,
            ],
            null,
            ['TZ' => 'UTC'],
            null,
            null,
        ))->mustRun();
    }

    /** Copies its binary logs as they lie. */
    public function copyLogs(string $to): void
    {
        $this->exec('FLUSH BINARY LOGS', 'SET GLOBAL binlog_commit_wait_count = 0');
        foreach (glob("{$this->folder}/binlog.0*") ?: [] as $log) {
            copy($log, "$to/".basename($log));
        }
    }

    /**
     * @return array<string, list<array<string, string|null>>> the true state of a schema: table => rows in the order of all their columns
     */
    public function state(string $schema): array
    {
        $state = [];
        foreach (
            $this->rows(
                "SELECT table_name AS name FROM information_schema.tables WHERE table_schema = '$schema' AND table_type IN ('BASE ".
                    "TABLE', 'SYSTEM VERSIONED') ORDER BY table_name",
            ) as $table
        ) {
            $rows = $this->rows("SELECT * FROM `$schema`.`".str_replace('`', '``', (string) $table['name']).'`');
            $text = array_map(serialize(...), $rows);
            sort($text);
            $state[(string) $table['name']] = array_map(fn (string $row): array => (array) unserialize($row), $text);
        }

        return $state;
    }

    public function stop(): void
    {
        $this->process->stop(0, SIGKILL);
    }

    public function __destruct()
    {
        $this->stop();
    }
}
