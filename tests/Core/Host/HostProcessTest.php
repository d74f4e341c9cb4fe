<?php

declare(strict_types=1);

use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Files\Permissions;
use Kaiseki\Core\Files\Seen;
use Kaiseki\Core\Files\Status;
use Kaiseki\Core\Files\Target;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Host\HostFolder;
use Kaiseki\Core\Host\Wire;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Process\Process;
use Tests\Support\HostAtWork;
use Tests\Support\Scratch;
use Tests\Support\TreeListing;

beforeEach(function (): void {
    $this->scratch = new Scratch;
    $this->host = new HostAtWork($this->scratch->folder('given'));
});

afterEach(function (): void {
    $this->host->end();
    $this->scratch->remove();
});

const LISTED = 'user::rw-,user:7:r--,group::r--,group:70001:rw-,mask::rw-,other::---';

/** One deed at random; what came of it, in words. */
function deed(Target $target, Randomizer $random): string
{
    $names = ['a', 'b', 'c d', "e\nf", '0', '12', 'ü'];
    $path = fn (): string => '.kaiseki-staging-1/'.
        implode('/', array_map(fn (): string => $names[$random->getInt(0, 6)], range(1, $random->getInt(1, 3))));
    [$one, $two, $what, $size] = [$path(), $path(), $random->getInt(0, 10), $random->getInt(0, 3000)];
    try {
        return (string) json_encode(
            match ($what) {
                0, 1 => $target->makeFolder($one),
                2, 3 => (function () use ($target, $one, $size): void {
                    $target->putFile($one, str_repeat('p', $size), 0640, 1000, 1001, 1_700_000_000_000_000_123 + $size, true);
                    foreach ($target->settle() as $failure) {
                        throw $failure;
                    }
                })(),
                4 => (function () use ($target, $one, $size): void {
                    $file = $target->createFile($one);
                    $file->data(str_repeat('c', $size));
                    $file->hole($size * 3);
                    $file->data('end');
                    $file->hole(($size % 2) * 50);
                    $file->finish(04755, 7, 8, 1_600_000_000_000_000_000 + $size, true);
                })(),
                5 => $target->symlink("../$size", $one),
                6 => $target->hardLink($one, $two),
                7 => $target->rename($one, $two),
                8 => $target->remove($one),
                10 => $target->permit($one, new Permissions(0600 + ($size % 64), 5, 6, ['', LISTED, 'user:nobody-x:rwx'][$size % 3]), true),
                9 => $target->describe($one, 0700 + ($size % 8), 5, 6, 1_500_000_000_000_000_000 + $size, true),
            },
        );
    } catch (UnableToRestore $failure) {
        return $failure->getMessage();
    }
}

it('does what a folder of this process does, deed by deed', function (int $seed): void {
    $here = FolderBelow::make($this->scratch->path.'/here');
    $there = $this->host->open('there', true);
    $here->makeFolder('.kaiseki-staging-1');
    $there->makeFolder('.kaiseki-staging-1');
    for ($i = 0; $i < 250; $i++) {
        $random = fn (): Randomizer => new Randomizer(new Mt19937($seed * 1000 + $i));
        $told = deed($here, $random());
        expect(deed($there, $random()))->toBe($told, "deed $i of seed $seed");
    }
    // Folders and links have the time at which they were made or changed.
    $listing = fn (string $root): array => preg_replace('/^([dl] \d+) \S+/', '$1', TreeListing::of($root));
    expect($listing("{$this->host->root}/there"))->toBe($listing($here->path));
    $paths = array_keys(TreeListing::of($here->path));
    $want = Seen::DIGEST | Seen::ACCESS;
    $asked = fn (): iterable => array_map(fn (int|string $path): array => [(string) $path, $want], [...$paths, 'nothing']);
    $plain = fn (Target $target): array => array_map(
        fn (Seen $seen): array => [$seen->path, $seen->status?->type, $seen->status?->mode, $seen->link, $seen->digest, $seen->access],
        [...$target->many($asked())],
    );
    expect($plain($there))->toBe($plain($here));
    foreach ($paths as $path) {
        $path = (string) $path;
        expect($there->digest($path))->toBe($here->digest($path))->and($there->readLink($path))->toBe($here->readLink($path));
        $read = fn (Target $target): ?string => ($stream = $target->read($path)) === null ? null : (string) stream_get_contents($stream);
        expect($read($there))->toBe($read($here));
        $names = fn (Target $target): array => (function (array $names): array {
            sort($names);

            return $names;
        })($target->names($path));
        expect($names($there))->toBe($names($here));
    }
})->with([1, 2, 3, 4]);

it('gives permissions to what stands there, but not to what was removed, and not through a link', function (): void {
    $there = $this->host->open();
    $file = $this->scratch->file('given/document', 'as it was');
    touch($file, 1_500_000_000);
    $there->permit('document', new Permissions(0660, 0, 0, LISTED), false);
    clearstatcache(true);
    expect(fileperms($file) & 07777)->toBe(0660)
        ->and(filemtime($file))->toBe(1_500_000_000)
        ->and($there->access('document', false))->toBe(FolderBelow::open($this->host->root)->access('document', false));
    $outside = $this->scratch->file('outside', 'of somebody else');
    chmod($outside, 0600);
    symlink($outside, "{$this->host->root}/way");
    $this->scratch->file('given/.kaiseki-removed/gone', 'x');
    foreach (['way' => 'no permissions of its own', '.kaiseki-removed/gone' => 'stays as it is', '../outside' => ''] as $path => $because) {
        expect(fn () => $there->permit($path, new Permissions(0666, 0, 0, ''), false))->toThrow(UnableToRestore::class, $because);
    }
    clearstatcache(true);
    expect(fileperms($outside) & 07777)->toBe(0600);
});

it('puts many small files, tells those that could not be, and goes on', function (): void {
    $there = $this->host->open();
    $there->makeFolder('.kaiseki-staging-1/d');
    $this->scratch->file('given/.kaiseki-staging-1/d/77', 'was there');
    for ($i = 0; $i < 450; $i++) {
        $there->putFile(".kaiseki-staging-1/d/$i", "content $i", 0600, 0, 0, 0, true);
    }
    $there->putFile('.kaiseki-staging-1/nowhere/x', '', 0600, 0, 0, 0, true);
    $failed = $there->settle();
    expect(array_keys($failed))
        ->toBe(['.kaiseki-staging-1/d/77', '.kaiseki-staging-1/nowhere/x'])
        ->and($failed['.kaiseki-staging-1/d/77']->getMessage())
        ->toContain('File exists')
        ->and($there->settle())
        ->toBe([])
        ->and(count($there->names('.kaiseki-staging-1/d')))
        ->toBe(450);
    // What is asked of many is answered in order, whatever is asked in between.
    $seen = [];
    foreach ($there->many(array_map(fn (int $i): array => [".kaiseki-staging-1/d/$i", Seen::BYTES], range(0, 899))) as $one) {
        $seen[] = $one->bytes;
        if (count($seen) % 150 === 0) {
            expect($there->status('.kaiseki-staging-1/d/5')?->size)->toBe(9);
        }
    }
    expect($seen)->toHaveCount(900)->and($seen[3])->toBe('content 3')->and($seen[77])->toBe('was there')->and($seen[450])->toBeNull();
});

it('opens nothing outside what was given, by no name and through no link', function (): void {
    $outside = $this->scratch->folder('outside');
    file_put_contents("$outside/secret", 'secret');
    symlink($outside, "{$this->host->root}/door");
    $open = fn (string $folder): HostFolder => HostFolder::open($this->host->socket, $folder, true);
    foreach ([$outside, "{$this->host->root}/../outside", "{$this->host->root}x", '/', '', "{$this->host->root}/door", "a\0b"] as $folder) {
        expect(fn () => $open($folder))->toThrow(UnableToRestore::class);
    }
    $there = $this->host->open();
    foreach (
        ['door/secret', '../outside/secret', 'door/../../outside/secret', "door\0/secret", '/etc/passwd', './../outside/secret'] as $path
    ) {
        expect($there->status($path))->toBeNull($path)->and($there->read($path))->toBeNull()->and($there->digest($path))->toBeNull();
        expect(fn () => $there->createFile("$path-new"))->toThrow(UnableToRestore::class);
        expect(fn () => $there->rename($path, 'mine'))->toThrow(UnableToRestore::class);
    }
    expect(scandir($outside))->toBe(['.', '..', 'secret']);
});

it('goes nowhere else while links are swapped under it', function (): void {
    $outside = $this->scratch->folder('outside');
    $this->scratch->file('given/d/x', 'x');
    $swap = new Process(['sh', '-c', 'while :; do mv d e; ln -s "$1" d; rm d; mv e d; done', 'sh', $outside], $this->host->root);
    $swap->setTimeout(null);
    $swap->start();
    for ($i = 0; $i < 2000; $i++) {
        // Each time with a new hold of the folder, as a hold that is open cannot be led elsewhere at all.
        $there = $i % 20 === 0 || ! isset($there) ? $this->host->open() : $there;
        try {
            $there->putFile("d/f$i", 'put', 0600, 0, 0, 0, true);
            $there->settle();
            $there->makeFolder("d/g$i");
            $there->createFile("d/h$i")->finish(0600, 0, 0, 0, true);
        } catch (UnableToRestore) {
            // it was a link just then
        }
    }
    $swap->stop(0);
    expect(scandir($outside))->toBe(['.', '..']);
});

it('destroys nothing that did not come by staging before its time', function (): void {
    $this->host->end();
    $this->host = new HostAtWork($this->scratch->path.'/given', 0, 3600);
    foreach (['kept', 'd/deep', 'other'] as $name) {
        $this->scratch->file("given/$name", $name);
    }
    $there = $this->host->open();
    $there->makeFolder('.kaiseki-staging-1');
    $there->makeFolder('n');
    $ways = [
        fn () => $there->removeTree('d'),
        fn () => $there->rename('kept', '.kaiseki-staging-1/kept'),
        fn () => $there->rename('d', 'n/.kaiseki-staging-2'),
        fn () => $there->hardLink('kept', 'second'),
        fn () => (function () use ($there): void {
            $there->makeFolder('.kaiseki-set-aside-1');
            $there->rename('kept', '.kaiseki-set-aside-1/kept');
            $there->removeTree('.kaiseki-set-aside-1');
        })(),
        fn () => $there->putFile('.kaiseki-removed/x', '', 0600, 0, 0, 0, true) ?? throw $there->settle()['.kaiseki-removed/x'],
        fn () => $this->host->open('.kaiseki-removed'),
    ];
    foreach ($ways as $way) {
        expect($way)->toThrow(UnableToRestore::class);
    }
    expect($there->remove('.kaiseki-set-aside-1/kept'))
        ->toBeFalse()
        ->and($there->remove('d'))
        ->toBeFalse() // not empty
        ->and($there->remove('other'))
        ->toBeTrue()
        ->and($there->status('other'))
        ->toBeNull();
    $removed = glob("{$this->host->root}/.kaiseki-removed/*-other") ?: [];
    expect(array_map(file_get_contents(...), $removed))
        ->toBe(['other'])
        ->and(file_get_contents("{$this->host->root}/.kaiseki-set-aside-1/kept"))
        ->toBe('kept')
        ->and(file_get_contents("{$this->host->root}/d/deep"))
        ->toBe('d/deep');
    // When the time is over it goes: another process of the host, with another time.
    $this->host->end();
    $this->host = new HostAtWork($this->scratch->path.'/given');
    $this->host->open()->removeTree('.kaiseki-set-aside-1');
    expect(scandir($this->host->root))
        ->toBe(['.', '..', '.kaiseki-removed', '.kaiseki-staging-1', 'd', 'n'])
        ->and(glob("{$this->host->root}/.kaiseki-removed/*"))
        ->toBe([]);
});

it('tells that a program has a file open for writing', function (): void {
    $path = $this->scratch->file('given/d/open', 'x');
    $there = $this->host->open();
    expect($there->openForWriting('d/open'))->toBeNull();
    $reading = fopen($path, 'rb');
    expect($there->openForWriting('d/open'))->toBeNull();
    $writing = fopen($path, 'r+b');
    expect($there->openForWriting('d/open'))
        ->toBe('a program')
        ->and($there->openForWriting('d'))
        ->toBe('a program')
        ->and($there->openForWriting('nothing'))
        ->toBeNull();
    fclose($writing);
    fclose($reading);
    expect($there->openForWriting('d'))->toBeNull();
});

it('answers the desk and nobody else', function (): void {
    $this->host->end();
    $this->host = new HostAtWork($this->scratch->path.'/given', 54321);
    $script = 'require "vendor/autoload.php"; Kaiseki\Core\Host\HostFolder::open($argv[1], $argv[2]); echo "open";';
    $as = fn (int $user): string => (new Process(
        ['setpriv', "--reuid=$user", "--regid=$user", '--clear-groups', PHP_BINARY, '-r', $script, $this->host->socket, $this->host->root],
        dirname(__DIR__, 3),
    ))
        ->setTimeout(60)
        ->mustRun()
        ->getOutput();
    if (! is_readable(dirname(__DIR__, 3).'/vendor/autoload.php') || (fileperms(dirname(__DIR__, 4)) & 01) === 0) {
        test()->markTestSkipped('Other accounts cannot enter the folder of this checkout.');
    }
    expect($as(54321))->toBe('open')->and($as(0))->toBe('open');
    expect(fn () => $as(54322))->toThrow(Symfony\Component\Process\Exception\ProcessFailedException::class);
});

it('is not moved by nonsense', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $this->scratch->file('given/file', 'as it was');
    $outside = $this->scratch->file('outside/file', 'as it was');
    $asks = array_map(fn ($ask): string => $ask->value, Kaiseki\Core\Host\Ask::cases());
    $some = fn (): string => match ($random->getInt(0, 7)) {
        0 => '',
        1 => str_repeat("\xff", $random->getInt(1, 5000)),
        2 => (string) PHP_INT_MAX,
        3 => '-1',
        4 => '../../../etc/shadow',
        5 => "\0",
        6 => $random->getBytes($random->getInt(1, 200)),
        default => (string) $random->getInt(0, 9),
    };
    for ($i = 0; $i < 150; $i++) {
        $socket = socket_create(AF_UNIX, SOCK_STREAM, 0);
        socket_connect($socket, $this->host->socket);
        socket_set_option($socket, SOL_SOCKET, SO_RCVTIMEO, ['sec' => 0, 'usec' => 20_000]);
        $first = $random->getInt(0, 2);
        $messages = $first === 0 ? [] : [Wire::encode(['open', $this->host->root, ''])];
        for ($n = 0; $n < $random->getInt(1, 4); $n++) {
            $parts = array_map(fn (): string => $some(), range(1, $random->getInt(1, 9)));
            $messages[] = match ($random->getInt(0, 3)) {
                0 => $random->getBytes($random->getInt(1, 64)),
                1 => pack('N', $random->getInt(0, PHP_INT_MAX)).$random->getBytes(10),
                default => Wire::encode([$asks[$random->getInt(0, count($asks) - 1)], '../'.$parts[0], ...array_slice($parts, 1)]),
            };
        }
        foreach ($messages as $message) {
            set_error_handler(fn (): bool => true);
            socket_write($socket, $message);
            restore_error_handler();
        }
        set_error_handler(fn (): bool => true); // it may have hung up
        socket_read($socket, 65536);
        restore_error_handler();
        socket_close($socket);
    }
    expect($this->host->isRunning())
        ->toBeTrue()
        ->and($this->host->open()->status('file')?->type)
        ->toBe(Status::FILE)
        ->and(file_get_contents("{$this->host->root}/file").file_get_contents($outside))
        ->toBe('as it wasas it was')
        ->and(scandir(dirname($outside)))
        ->toBe(['.', '..', 'file']);
})->with([1, 2]);

it('says in words that its process is gone', function (): void {
    $there = $this->host->open();
    posix_kill((int) trim((string) shell_free_children($this->host->pid())), SIGKILL);
    expect(fn () => $there->names(''))->toThrow(UnableToRestore::class, 'has ended');
    $this->host->end();
    expect(fn () => $this->host->open())->toThrow(UnableToRestore::class, 'does not answer');
});

/** The process of the last wire. */
function shell_free_children(int $pid): string
{
    $children = explode(' ', trim((string) file_get_contents("/proc/$pid/task/$pid/children")));

    return (string) end($children);
}

it('can do nothing that the answering of a wire does not need', function (): void {
    $this->host->open();
    $status = (string) file_get_contents('/proc/'.shell_free_children($this->host->pid()).'/status');
    expect($status)->toMatch('/^Seccomp:\s*2$/m')->toMatch('/^NoNewPrivs:\s*1$/m');
    // The filter itself, in a process of its own: each call that is refused, and files still read.
    $try =
        'require "vendor/autoload.php"; $c = FFI::cdef("int unshare(int); int kill(int, int); long syscall(long, ...);", "libc.so.6");'.
        '$calls = Kaiseki\Core\Host\SystemCalls::NEVER + Kaiseki\Core\Host\SystemCalls::OF_ONE_WIRE;'.
        'Kaiseki\Core\Host\SystemCalls::refuse($calls);'.
        'foreach ($calls as $name => $number) { if ($c->syscall($number, 0, 0, 0, 0, 0, 0) !== -1) { echo "$name is not refused\n"; } }'.
        'echo @proc_open(["true"], [], $pipes) === false ? "" : "a program ran\n";'.
        'echo @file_get_contents("composer.json") === false ? "unread" : "";';
    $process = new Process([PHP_BINARY, '-r', $try], dirname(__DIR__, 3));
    expect($process->mustRun()->getOutput())->toBe('');
});
