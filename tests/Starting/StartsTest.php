<?php

declare(strict_types=1);

use Symfony\Component\Process\Process;
use Tests\Support\Scratch;

// The usual first starts: by root in a folder that only root may enter, by root where nobody may mount, and by an ordinary user.

/** A free port of this machine. */
function freePort(): string
{
    $socket = stream_socket_server('tcp://127.0.0.1:0');
    $port = substr((string) strrchr((string) stream_socket_get_name($socket, false), ':'), 1);
    fclose($socket);

    return $port;
}

/** A checkout of its own, in a folder that everybody may enter. */
function openCheckout(Scratch $scratch): string
{
    $root = dirname(__DIR__, 2);
    $checkout = $scratch->folder('checkout');
    $script = 'git ls-files -z --cached --others --exclude-standard | xargs -0 cp -a --parents -t "$1" && cp -a vendor "$1"';
    (new Process(['sh', '-c', $script, 'sh', $checkout], $root, null, null, 300))->mustRun();
    (new Process(['chmod', '-R', 'o+rX', $checkout]))->mustRun();

    return $checkout;
}

beforeEach(function (): void {
    // On the disk: the copy is too large for memory.
    $this->scratch = new Scratch(sys_get_temp_dir());
    chmod($this->scratch->path, 0755);
    $this->home = '';
    $this->in = fn (string $checkout, array $as, string ...$command): Process => new Process(
        [...$as, "$checkout/bin/$command[0]", ...array_slice($command, 1)],
        $checkout,
        ['KAISEKI_HOME' => $this->home, 'KAISEKI_PORT' => $this->port, 'KAISEKI_ENV' => false, 'HOME' => $this->scratch->path],
        null,
        300,
    );
    $this->port = freePort();
    $this->stop = fn () => null;
});

afterEach(function (): void {
    ($this->stop)();
    $this->scratch->remove();
});

/** Accounts of the processes whose command line or environment names a home. */
function accountsOf(string $home): array
{
    $accounts = [];
    foreach (glob('/proc/[0-9]*') ?: [] as $process) {
        set_error_handler(fn (): bool => true); // it may end meanwhile
        $about = file_get_contents("$process/cmdline")."\0".file_get_contents("$process/environ");
        $owner = fileowner($process);
        restore_error_handler();
        if (str_contains($about, $home) && (int) basename($process) !== getmypid() && $owner !== false) {
            $accounts[(string) (posix_getpwuid($owner)['name'] ?? $owner)] = true;
        }
    }
    ksort($accounts);

    return array_keys($accounts);
}

it('starts in a folder that only root may enter, and shows its accounts these two folders of it alone', function (): void {
    $closed = $this->scratch->folder('closed');
    $this->home = "$closed/home";
    file_put_contents("$closed/beside", 'not for them');
    $checkout = dirname(__DIR__, 2);
    chmod($closed, 0700);
    ($this->in)($checkout, [], 'start', '--background', '--no-demo')->mustRun();
    $this->stop = fn () => ($this->in)($checkout, [], 'stop')->mustRun();
    expect(file_get_contents("http://127.0.0.1:{$this->port}/health"))
        ->toBe('ok')
        ->and(accountsOf($this->home))
        ->toBe(['kaiseki', 'kaiseki-db', 'kaiseki-host', 'root']);
    $see = fn (string $what): bool => ($this->in)($checkout, [], 'walls/enter', 'kaiseki', '--', 'test', '-e', $what)->run() === 0;
    expect($see("$this->home/keys/app.key"))
        ->toBeTrue()
        ->and($see("$checkout/artisan"))
        ->toBeTrue()
        ->and($see("$closed/beside"))
        ->toBeFalse();
    $write = fn (string $where): bool => ($this->in)($checkout, [], 'walls/enter', 'kaiseki', '--', 'touch', "$where/x")->run() === 0;
    expect($write($closed))->toBeFalse()->and($write($checkout))->toBeFalse()->and($write("$this->home/tmp"))->toBeTrue();
    // And again, as it stands.
    ($this->stop)();
    ($this->in)($checkout, [], 'start', '--background')->mustRun();
    expect(file_get_contents("http://127.0.0.1:{$this->port}/health"))->toBe('ok');
})->group('deep');

it('uses its accounts also where nobody may mount, and says so where that is not enough', function (): void {
    $checkout = openCheckout($this->scratch);
    $as = ['setpriv', '--inh-caps=-all', '--bounding-set=-sys_admin'];
    $this->home = $this->scratch->folder('home');
    ($this->in)($checkout, $as, 'start', '--background', '--no-demo')->mustRun();
    $this->stop = fn () => ($this->in)($checkout, [], 'stop')->mustRun();
    expect(trim((string) file_get_contents("$this->home/walls")))
        ->toBe('narrow')
        ->and(accountsOf($this->home))
        ->toBe(['kaiseki', 'kaiseki-db', 'kaiseki-host', 'root'])
        ->and(file_get_contents("http://127.0.0.1:{$this->port}/health"))
        ->toBe('ok');
    ($this->stop)();
    $closed = $this->scratch->folder('closed');
    chmod($closed, 0700);
    $this->home = "$closed/home";
    $start = ($this->in)($checkout, $as, 'start', '--background', '--no-demo')->mustRun();
    expect($start->getOutput())
        ->toContain('Everything runs as root')
        ->toContain($closed)
        ->and(accountsOf($this->home))
        ->toBe(['root']);
})->group('deep');

it('is one account when an ordinary user starts it, and restores without owners', function (): void {
    $checkout = openCheckout($this->scratch);
    $this->home = "{$this->scratch->path}/user/home";
    mkdir("{$this->scratch->path}/user");
    chown("{$this->scratch->path}/user", 65534);
    $as = ['setpriv', '--reuid=65534', '--regid=65534', '--clear-groups'];
    ($this->in)($checkout, $as, 'start', '--background', '--no-demo')->mustRun();
    $this->stop = fn () => ($this->in)($checkout, $as, 'stop')->mustRun();
    expect(file_get_contents("http://127.0.0.1:{$this->port}/health"))
        ->toBe('ok')
        ->and(accountsOf($this->home))
        ->toBe(['nobody']);
    $say = fn (string ...$command): array => (array) json_decode(
        ($this->in)($checkout, $as, 'kaiseki', ...[...$command, '--json'])->mustRun()->getOutput(),
        true,
    );
    $own = "{$this->scratch->path}/user";
    (new Process([...$as, 'sh', '-c', 'mkdir files && echo text >files/a && chmod 640 files/a'], $own))->mustRun();
    expect($say('roots')['walls'])->toBeFalse();
    $say('store-add', 'own', "$own/store");
    $say('protect', 'small', "--source=$own/files", '--level=full', '--store=own');
    $restored = $say('restore', 'small', '--at='.gmdate('Y-m-d\TH:i:s\Z', time() + 60), '--path=/a', "--to=$own/out");
    expect(file_get_contents("$own/out/a"))
        ->toBe("text\n")
        ->and(fileperms("$own/out/a") & 0777)
        ->toBe(0640);
    $proof = ($this->in)($checkout, $as, 'kaiseki', 'proof', (string) $restored['run'])->mustRun()->getOutput();
    expect($proof)->toContain('owners are not given');
});

it('puts walls round a home that root had before them, and gives what was known', function (): void {
    $checkout = openCheckout($this->scratch);
    $this->home = "{$this->scratch->path}/before";
    $one = ['env', 'KAISEKI_ONE_ACCOUNT=1'];
    $say = fn (string ...$command): string => ($this->in)($checkout, [], 'kaiseki', ...$command)->mustRun()->getOutput();
    ($this->in)($checkout, $one, 'start', '--background', '--no-demo')->mustRun();
    $this->stop = fn () => ($this->in)($checkout, [], 'stop')->mustRun();
    expect(accountsOf($this->home))->toBe(['root']);
    $file = $this->scratch->file('share/files/letter', 'private');
    chmod($file, 0600);
    $say('store-add', 'own', "{$this->scratch->path}/store");
    $say('protect', 'share', "--source={$this->scratch->path}/share/files", '--level=full', '--store=own');
    ($this->stop)();
    $start = ($this->in)($checkout, [], 'start', '--background')->mustRun();
    expect(accountsOf($this->home))->toBe(['kaiseki', 'kaiseki-db', 'kaiseki-host', 'root'])
        ->and($start->getOutput())->toContain("chown -R kaiseki {$this->scratch->path}/store")
        ->and($say('roots'))->toContain("{$this->scratch->path}/share/files");
    (new Process(['chown', '-R', 'kaiseki', "{$this->scratch->path}/store"]))->mustRun();
    unlink($file);
    $say('restore', 'share', '--at='.gmdate('Y-m-d\TH:i:s\Z', time() + 60), '--path=/letter', '--in-place');
    expect(file_get_contents($file))->toBe('private')->and(fileowner($file))->toBe(0)->and(fileperms($file) & 0777)->toBe(0600);
    // And back: without walls all is root's again.
    ($this->stop)();
    ($this->in)($checkout, $one, 'start', '--background')->mustRun();
    expect(accountsOf($this->home))->toBe(['root'])->and($say('points', 'share'))->toContain('share.full');
})->group('deep');
