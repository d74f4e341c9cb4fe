<?php

declare(strict_types=1);

use Symfony\Component\Process\Process;
use Tests\Support\Instance;

/** @return list<string> what others on this machine could read, write or enter, if they came that far */
function openTo(string $where, string ...$but): array
{
    $find = new Process([
        'find',
        $where,
        '(',
        ...array_merge(...array_map(fn (string $path): array => ['-path', $path, '-o'], $but)),
        '-false',
        ')',
        '-prune',
        '-o',
        '-perm',
        '/077',
        '!',
        '-type',
        'l',
        '!',
        '-type',
        's',
        '-print',
    ]);
    $find->run();

    return array_values(array_filter(explode("\n", trim($find->getOutput()))));
}

it('keeps what it writes to itself, home, stores, kits and indexes alike', function (): void {
    $home = Instance::home();
    // What root wrote for the accounts: none of it is a secret, and none may be written to by them.
    $modes = ['' => 0711, 'walls' => 0644, 'given' => 0644, 'fpm-start' => 0755, 'nginx.conf' => 0640, '.env' => 0640, 'root' => 0700];
    foreach ($modes as $name => $mode) {
        expect(fileperms("$home/$name") & 0777)
            ->toBe($mode, $name)
            ->and(fileowner("$home/$name"))
            ->toBe(0, $name);
    }
    $apart = ['.', '..', 'walls', 'given', 'fpm-start', 'restored', 'sql', 'host', 'hosts', 'commands', 'vm', 'guest', 'scanner', 'named'];
    $names = array_diff(scandir($home) ?: [], $apart);
    $ofRoot = array_filter($names, fn (string $name): bool => is_file("$home/$name"));
    expect(
        array_filter($ofRoot, fn (string $name): bool => (fileperms("$home/$name") & 0037) !== 0 || fileowner("$home/$name") !== 0),
    )->toBe([]);
    // The hosts of the demo are other machines. The servers write their own files, in folders that nobody else enters.
    $servers = [
        ...glob("$home/cache/database-*", GLOB_ONLYDIR) ?: [],
        "$home/db",
        "$home/fares-db",
        "$home/mail",
        "$home/sql/tmp",
        "$home/run",
        "$home/tmp",
    ];
    foreach (array_diff($names, $ofRoot) as $name) {
        expect(openTo("$home/$name", "$home/medium/packages", ...$servers))->toBe([]); // those are Debian's
    }
    foreach ($servers as $folder) {
        expect(fileperms($folder) & 0077)->toBe(0, $folder);
    }
    // So do the hypervisors of the demo: the desk reaches their sockets, and nobody reads a disk. Who its name server is the desk may know.
    // What machines start with, and are scanned with, is Debian's.
    expect(fileperms("$home/vm/names") & 0777)->toBe(0750)->and(fileperms("$home/vm/names/update.key") & 0777)->toBe(0640);
    foreach (glob("$home/vm/[0-9]*") ?: [] as $folder) {
        expect([fileperms($folder) & 0777, fileperms("$folder/doors") & 0777])->toBe([0750, 0750]);
        foreach (['machines', 'storages', 'annexes', 'run'] as $part) {
            expect(openTo("$folder/$part"))->toBe([]);
        }
    }
    $written = new Process(['find', "$home/guest", "$home/scanner", "$home/named", '-perm', '/022', '!', '-type', 'l', '-print']);
    expect($written->mustRun()->getOutput())->toBe('');
    // Sockets are reached by those who may enter their folder; the databases ask the system who it is.
    expect(fileperms("$home/host") & 0777)
        ->toBe(0750)
        ->and(fileperms("$home/sql") & 0777)
        ->toBe(0711);
});

it('does so whatever the umask is that it was called under', function (): void {
    $home = Instance::home();
    $out = sys_get_temp_dir().'/kaiseki-open-'.bin2hex(random_bytes(4));
    mkdir($out, 0711);
    chmod($out, 0711); // the application's account comes through
    $run = function (string ...$arguments): string {
        $process = new Process(
            ['sh', '-c', 'umask 000; exec "$@"', 'sh', PHP_BINARY, dirname(__DIR__, 2).'/bin/kaiseki', ...$arguments],
            null,
            ['KAISEKI_HOME' => Instance::home(), 'KAISEKI_ENV' => false],
            null,
            300,
        );
        $process->mustRun();

        return $process->getOutput();
    };
    try {
        $made = json_decode(
            $run('protect', 'berth-kiosk', "--source=$home/hosts/berth-kiosk/files", '--store=boathouse', '--level=full', '--json'),
            true,
        )['set'];
        $run('copy', 'berth-kiosk', $made, '--to=pier-nine');
        $run('catalog', 'export', "$out/export");
        $run('restore', 'berth-kiosk', '--at='.gmdate('Y-m-d\TH:i:s\Z', time() + 60), '--path=/settings.ini', "--to=$out/new");
        $run('hand-sheet', 'berth-kiosk', '--at='.gmdate('Y-m-d\TH:i:s\Z', time() + 60), "--out=$out/sheet.sh");
        expect(fileperms("$out/new") & 0777)
            ->toBe(0700)
            ->and(openTo($out, "$out/new/settings.ini"))
            ->toBe([$out])
            ->and(openTo("$home/stores"))
            ->toBe([])
            ->and(openTo("$home/index"))
            ->toBe([])
            ->and(openTo("$home/runs"))
            ->toBe([]);
        // A store that others can read is closed, and that is said.
        mkdir("$out/open", 0755);
        chmod("$out/open", 0755);
        $add = new Process([PHP_BINARY, dirname(__DIR__, 2).'/bin/kaiseki', 'store-add', 'was-open', "$out/open"], null, [
            'KAISEKI_HOME' => $home,
            'KAISEKI_ENV' => false,
        ]);
        $add->mustRun();
        clearstatcache(true);
        expect($add->getErrorOutput())
            ->toContain('it was closed to them')
            ->and(fileperms("$out/open") & 0777)
            ->toBe(0700);
    } finally {
        Instance::database()->exec("DELETE FROM stores WHERE name = 'was-open'");
        (new Process(['rm', '-rf', $out]))->run();
    }
});

it('has no account on the demo\'s server that comes in from elsewhere, or without a password', function (): void {
    $server = new PDO('mysql:unix_socket='.Instance::home().'/sql/fares.sock', (string) posix_getpwuid(posix_geteuid())['name'], '');
    $isShut = fn (array $account): bool => $account['plugin'] === 'unix_socket' ||
        (string) $account['secret'] !== '' ||
        str_starts_with($account['a'], 'mariadb.sys@');
    $accounts = $server
        ->query(
            "SELECT CONCAT(user, '@', host) AS a, JSON_VALUE(priv, '$.plugin') AS plugin,".
                " JSON_VALUE(priv, '$.authentication_string') AS secret FROM mysql.global_priv",
        )
        ->fetchAll(PDO::FETCH_ASSOC);
    foreach ($accounts as $account) {
        expect($account['a'])->toMatch('/@(localhost|127\.0\.0\.1)$/')->and($isShut($account))->toBeTrue($account['a']);
    }
    expect(Instance::database()->query("SELECT user FROM database_servers WHERE name = 'fares-db'")->fetchColumn())->not->toBe('root');
});
