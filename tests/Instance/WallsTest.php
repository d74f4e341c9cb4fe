<?php

declare(strict_types=1);

use Kaiseki\Core\Host\Wire;
use Symfony\Component\Process\Process;
use Tests\Support\Instance;
use Tests\Support\Scratch;

// The walls of the running demo, read from the system: accounts, capabilities, mounts and grants; and what each account then can do.

/** @return array<string, string> of /proc/PID/status */
function statusOf(int $pid): array
{
    preg_match_all('/^(\w+):\s*(.*)$/m', (string) file_get_contents("/proc/$pid/status"), $found);

    return array_combine($found[1], $found[2]);
}

/** @return list<int> processes below one, itself among them */
function below(int $pid): array
{
    $children = array_filter(explode(' ', trim((string) @file_get_contents("/proc/$pid/task/$pid/children"))));

    return [$pid, ...array_merge(...array_map(fn (string $child): array => below((int) $child), array_values($children)))];
}

/** @return array<string, int> program of root's supervisor => its process */
function programs(): array
{
    preg_match_all('/^(\S+)\s+RUNNING\s+pid (\d+)/m', Instance::rootControl('status'), $found);

    return array_map(intval(...), array_combine($found[1], $found[2]));
}

function asAccount(string $account, string ...$command): Process
{
    $process = new Process(
        [dirname(__DIR__, 2).'/bin/walls/enter', $account, '--', ...$command],
        null,
        ['KAISEKI_HOME' => Instance::home(), 'KAISEKI_ENV' => false],
        null,
        60,
    );
    $process->run();

    return $process;
}

function uid(string $account): string
{
    return (string) (posix_getpwnam($account)['uid'] ?? throw new RuntimeException($account));
}

beforeEach(function (): void {
    $this->scratch = new Scratch;
});

afterEach(function (): void {
    $this->scratch->remove();
});

it('runs nothing as root but what waits for the rest to end', function (): void {
    $programs = programs();
    foreach ($programs as $program => $first) {
        $account = match (true) {
            in_array($program, ['database', 'fares-db'], true) => 'kaiseki-db',
            $program === 'application' => 'kaiseki',
            str_starts_with($program, 'vm-') => 'kaiseki-vm',
            default => 'kaiseki-host',
        };
        foreach (below($first) as $pid) {
            $status = is_dir("/proc/$pid") ? statusOf($pid) : null;
            if ($status === null || ($status['Name'] === 'unshare' && $pid === $first)) {
                continue; // the one that waits for a name space of processes to end
            }
            expect(array_unique(explode("\t", $status['Uid'])))
                ->toBe([uid($account)], "$program: {$status['Name']}")
                ->and($status['NoNewPrivs'])
                ->toBe('1')
                ->and($status['CapBnd'])
                ->toBe($account === 'kaiseki-host' ? '000000001000001b' : '0000000000000000')
                ->and($status['CapEff'])
                ->toBe($account === 'kaiseki-host' ? '000000001000001b' : '0000000000000000');
        }
    }
    expect(count(array_filter(array_keys($programs), fn (string $name): bool => str_starts_with($name, 'host-'))))->toBeGreaterThan(2);
});

it('shows the process of a host its folder, and nothing else of the machine', function (): void {
    foreach (array_filter(programs(), fn (string $name): bool => str_starts_with($name, 'host-'), ARRAY_FILTER_USE_KEY) as $first) {
        $pid = (int) (below($first)[1] ?? $first);
        $arguments = explode("\0", rtrim((string) file_get_contents("/proc/$pid/cmdline"), "\0"));
        $folder = end($arguments);
        preg_match_all('/^(?:\S+ ){4}(\S+) (\S+)/m', (string) file_get_contents("/proc/$pid/mountinfo"), $found);
        $mounts = array_combine($found[1], $found[2]);
        $writable = array_keys(array_filter($mounts, fn (string $options): bool => str_starts_with($options, 'rw')));
        sort($writable);
        $expected = [Instance::home().'/host', '/dev/null', '/dev/urandom', '/proc', $folder];
        sort($expected);
        expect($writable)->toBe($expected);
        foreach ([$folder, Instance::home().'/host'] as $given) {
            expect($mounts[$given])->toContain('nosuid')->toContain('nodev')->toContain('noexec');
        }
        $root = "/proc/$pid/root";
        $shown = implode("\n", [$folder, Instance::home().'/host', dirname(__DIR__, 2).'/core']);
        $private = [Instance::home().'/keys', dirname(__DIR__, 2).'/app'];
        foreach (['/etc/shadow', '/root', '/tmp', '/run', '/var', '/home', ...$private] as $hidden) {
            // What lies above its folders is there, and leads to them alone.
            $leads = str_contains("\n$shown", "\n$hidden/");
            expect($leads ? count(scandir($root.$hidden) ?: []) <= 4 : ! file_exists($root.$hidden))->toBeTrue($hidden);
        }
        expect(preg_match('/^\s*(lo|eth|en)\S*:/m', (string) file_get_contents("/proc/$pid/net/dev"), $m) === 1 ? $m[1] : '')->toBe('lo');
    }
});

it('lets the desk read and write no folder itself, and what was given through the process of the host', function (): void {
    $name = 'private-'.bin2hex(random_bytes(3));
    $file = $this->scratch->file('share/files/letter', 'for one pair of eyes');
    chmod($file, 0600);
    chmod($this->scratch->path.'/share/files', 0700);
    chown($file, 1234);
    mkdir($this->scratch->path.'/other', 0700);
    expect(asAccount('kaiseki', 'cat', $file)->isSuccessful())->toBeFalse();
    Instance::kaiseki('store-add', "$name-store", $this->scratch->folder('store'));
    $source = "{$this->scratch->path}/share/files";
    $made = Instance::kaiseki('protect', $name, "--source=$source", "--store=$name-store", '--level=full', '--json');
    expect($made->code)->toBe(0, $made->text);
    // Lost, and brought back in its place, owner and mode with it; nobody else may read it on the way.
    unlink($file);
    $now = gmdate('Y-m-d\TH:i:s\Z', time() + 60);
    $restored = Instance::kaiseki('restore', $name, "--at=$now", '--path=/letter', '--in-place', '--json');
    expect($restored->code)->toBe(0, $restored->text);
    clearstatcache();
    expect(file_get_contents($file))
        ->toBe('for one pair of eyes')
        ->and(fileowner($file))
        ->toBe(1234)
        ->and(fileperms($file) & 0777)
        ->toBe(0600);
    // What was not given is not opened; named by root at the terminal it is, for that command.
    $elsewhere = asAccount(
        'kaiseki',
        PHP_BINARY,
        dirname(__DIR__, 2).'/bin/kaiseki',
        'restore',
        $name,
        "--at=$now",
        '--path=/letter',
        "--to={$this->scratch->path}/other",
    );
    expect($elsewhere->isSuccessful())
        ->toBeFalse()
        ->and($elsewhere->getErrorOutput().$elsewhere->getOutput())
        ->toContain('root gave');
    $named = Instance::kaiseki('restore', $name, "--at=$now", '--path=/letter', "--to={$this->scratch->path}/other", '--json');
    expect($named->code)->toBe(0, $named->text)->and(fileowner("{$this->scratch->path}/other/letter"))->toBe(1234);
    expect(glob(Instance::home().'/host/once-*'))->toBe([]);
    // And taken back it is no more.
    $lists = fn (): array => array_column(Instance::kaiseki('roots', '--json')->json()['roots'], 'folder');
    expect($lists())->toContain($source);
    expect(Instance::kaiseki('roots', 'take', $source)->code)->toBe(0);
    expect($lists())->not->toContain($source);
    $gone = Instance::kaiseki('restore', $name, "--at=$now", '--path=/letter', '--in-place', '--json');
    expect($gone->code)->not->toBe(0)->and($gone->text)->toContain('root gave');
    Instance::kaiseki('roots', 'take', dirname($source).'/restored');
    expect(
        Instance::database()
            ->query("SELECT COUNT(*) FROM trail WHERE what LIKE '%$source % taken back%'")
            ->fetchColumn(),
    )->toBe(1);
});

it('gives the desk no way to folders but by root', function (): void {
    $home = Instance::home();
    foreach (['given', 'root/x', 'supervisord.conf', 'new', 'host/x.sock'] as $name) {
        $file = "$home/$name";
        $text = 'here';
        expect(asAccount('kaiseki', 'sh', '-c', 'printf %s "$2" >>"$1"', 'sh', $file, $text)->isSuccessful())->toBeFalse($file);
    }
    $answer = asAccount('kaiseki', PHP_BINARY, dirname(__DIR__, 2).'/bin/kaiseki', 'roots', 'give', '/etc');
    expect($answer->getErrorOutput().$answer->getOutput())->toContain('Only root gives folders');
    foreach (['kaiseki-db', 'nobody'] as $account) {
        $script = 'require $argv[1]; echo Kaiseki\Core\Host\HostFolder::open(...glob($argv[2]), ...[$argv[3]])->label();';
        $socket = glob("$home/host/*.sock")[0];
        expect(
            asAccount(
                $account,
                PHP_BINARY,
                '-r',
                $script,
                dirname(__DIR__, 2).'/vendor/autoload.php',
                $socket,
                "$home/hosts",
            )->isSuccessful(),
        )->toBeFalse();
    }
    expect(asAccount('kaiseki', 'sh', '-c', 'kill -0 "$1"', 'sh', (string) programs()['database'])->isSuccessful())->toBeFalse();
});

it('lets the desk add to the trail and read it, and has no other hold of the server', function (): void {
    $say = fn (string $sql): Process => asAccount(
        'kaiseki',
        'mariadb',
        '--no-defaults',
        '--batch',
        '--skip-column-names',
        '--socket='.Instance::home().'/sql/db.sock',
        'kaiseki',
        '-e',
        $sql,
    );
    $grants = $say('SHOW GRANTS')->getOutput();
    expect($grants)
        ->not->toMatch('/ALL PRIVILEGES|FILE|SUPER|GRANT OPTION|CREATE|ALTER|DROP|TRIGGER/')
        ->toMatch('/GRANT USAGE ON \*\.\*/')
        ->toMatch('/GRANT SELECT, INSERT ON `kaiseki`\.`trail`/');
    $refused = [
        "UPDATE trail SET what = 'nothing'",
        'DELETE FROM trail',
        'TRUNCATE trail',
        'REPLACE INTO trail (id) VALUES (1)',
        "INSERT INTO trail (id, what, at) VALUES (1, 'x', NOW()) ON DUPLICATE KEY UPDATE what = 'x'",
        'ALTER TABLE trail ADD x INT',
        'DROP TABLE trail',
        'RENAME TABLE trail TO trail2',
        'LOCK TABLES trail WRITE',
        "UPDATE trail_seals SET seal = 'x'",
        'DELETE FROM trail_days',
        'CREATE TRIGGER t BEFORE INSERT ON trail FOR EACH ROW SET NEW.what = 1',
        "SELECT LOAD_FILE('/etc/hosts') IS NULL FROM trail INTO OUTFILE '/tmp/x'",
        'SET GLOBAL general_log = 1',
        'CREATE DATABASE elsewhere',
        'SELECT user FROM mysql.user',
        'ALTER TABLE trail DROP FOREIGN KEY x',
        'CREATE USER x@localhost',
        'SET sql_log_bin = 0',
    ];
    foreach ($refused as $sql) {
        expect($say($sql)->getErrorOutput())->toMatch('/denied|you need/i', $sql);
    }
    // How long it is kept is root's, and carried out by the owner's procedure.
    expect($say('INSERT INTO trail_rule (days, set_at) VALUES (1, NOW())')->getErrorOutput())->toContain('denied')
        ->and($say('CALL expire_trail()')->isSuccessful())->toBeTrue();
    $count = fn (): int => (int) Instance::database()->query('SELECT COUNT(*) FROM trail')->fetchColumn();
    $before = $count();
    expect(Instance::kaiseki('trail', 'keep', '3650')->code)->toBe(0)->and($say('CALL expire_trail()')->isSuccessful())->toBeTrue()
        ->and($count())->toBe($before + 1)
        ->and(Instance::kaiseki('trail', 'keep', 'forever')->code)->toBe(0);
    // Nothing else takes rows of it away either: no key of another table cascades into it.
    $cascades = Instance::database()
        ->query(
            'SELECT COUNT(*) FROM information_schema.referential_constraints '.
                "WHERE constraint_schema = 'kaiseki' AND table_name LIKE 'trail%'".
                " AND (delete_rule NOT IN ('RESTRICT', 'NO ACTION') OR update_rule NOT IN ('RESTRICT', 'NO ACTION'))",
        )
        ->fetchColumn();
    expect($cascades)->toBe(0);
    // The server's own files, and those of the desk, are closed to each other.
    expect(asAccount('kaiseki', 'ls', Instance::home().'/db')->isSuccessful())
        ->toBeFalse()
        ->and(asAccount('kaiseki-db', 'ls', Instance::home().'/keys')->isSuccessful())
        ->toBeFalse()
        ->and(asAccount('kaiseki-db', 'ls', Instance::home().'/stores')->isSuccessful())
        ->toBeFalse();
});

it('runs commands before and after as the account that root named, and those that root allowed alone', function (): void {
    $name = 'resting-'.bin2hex(random_bytes(3));
    $this->scratch->file('share/files/a', 'a');
    $said = $this->scratch->folder('said');
    chmod($said, 0777);
    $command = fn (string $text): string => (string) json_encode(
        ['/bin/sh', '-c', "id -un >$said/$text; echo $text"],
        JSON_UNESCAPED_SLASHES,
    );
    Instance::kaiseki('store-add', "$name-store", $this->scratch->folder('store'));
    $protect = fn (string $text): array => Instance::kaiseki(
        'protect',
        $name,
        "--source={$this->scratch->path}/share/files",
        "--store=$name-store",
        '--level=full',
        '--before='.$command($text),
        '--json',
    )->json();
    try {
        expect(Instance::kaiseki('commands', 'allow', $command('rest'), 'root')->code)->not->toBe(0);
        expect(Instance::kaiseki('commands', 'allow', $command('rest'), 'daemon')->code)->toBe(0);
        $made = $protect('rest');
        expect($made)->not->toHaveKey('error')->and(trim((string) file_get_contents("$said/rest")))->toBe('daemon');
        sleep(1); // sets are named by the second
        $refused = $protect('other');
        expect(json_encode($refused))->toContain('not allowed on this machine')->and(file_exists("$said/other"))->toBeFalse();
        // One that reads what it is given, as one does that makes a mailbox.
        $reads = (string) json_encode(['/bin/sh', '-c', "cat >$said/read"], JSON_UNESCAPED_SLASHES);
        expect(Instance::kaiseki('commands', 'allow', $reads, 'daemon')->code)->toBe(0);
        $wire = Wire::to(Instance::home().'/commands/daemon/socket');
        $wire->send([$reads, '/', '10', "gone@crew.example\n"]);
        expect($wire->receive()[0])->toBe('0')->and(file_get_contents("$said/read"))->toBe("gone@crew.example\n");
        foreach (array_filter(programs(), fn (string $one): bool => str_starts_with($one, 'commands-'), ARRAY_FILTER_USE_KEY) as $pid) {
            $status = statusOf($pid);
            expect(explode("\t", $status['Uid'])[0])
                ->toBe(uid('daemon'))
                ->and($status['CapEff'])
                ->toBe('0000000000000000')
                ->and($status['NoNewPrivs'])
                ->toBe('1');
        }
    } finally {
        Instance::kaiseki('commands', 'forbid', $command('rest'));
        isset($reads) && Instance::kaiseki('commands', 'forbid', $reads);
        Instance::kaiseki('roots', 'take', "{$this->scratch->path}/share/files");
        Instance::kaiseki('roots', 'take', "{$this->scratch->path}/share/restored");
    }
    expect(Instance::kaiseki('commands', '--json')->json()['commands'])->toBe([]);
});
