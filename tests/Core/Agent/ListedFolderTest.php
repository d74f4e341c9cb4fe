<?php

declare(strict_types=1);

use Kaiseki\Core\Agent\ListedFolder;
use Kaiseki\Core\Agent\Listing;
use Kaiseki\Core\Agent\UnreadableListing;
use Kaiseki\Core\Archive\ByteStream;
use Kaiseki\Core\Archive\PlainStream;
use Kaiseki\Core\Archive\StreamBytes;
use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Files\Seen;
use Kaiseki\Core\Files\Status;
use Kaiseki\Core\Protect\SourceWalk;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Symfony\Component\Process\Process;
use Tests\Support\Scratch;

/*
 * What an agent tells of its machine, as find(1) and tar(1) of GNU say it, against the same folder looked at by the system calls
 * themselves.
 */

const FIND = '%y %m %U %G %s %T@ %C@ %i %D %n %b %u %g\0%p\0%l\0';

function streamOf(string $bytes): ByteStream
{
    $file = fopen('php://temp', 'w+b');
    fwrite($file, $bytes);
    rewind($file);

    return new PlainStream(new StreamBytes($file));
}

/** One thing as find tells it. */
function told(string $path, string $fields = 'f 644 0 0 5 1.0000000000 1.0000000000 7 8 1 8 root root', string $link = ''): string
{
    return "$fields\0$path\0$link\0";
}

beforeEach(function (): void {
    $this->scratch = new Scratch;
    $this->root = $this->scratch->folder('machine');
    /** The archive that tar writes of some numbers of a list. */
    $this->archive = function (string $list, array $numbers): ByteStream {
        $fields = explode("\0", $list);
        $names = implode("\0", array_map(fn (int $number): string => $fields[3 * $number - 2], $numbers));
        $tar = new Process([
            'tar', '--directory', $this->root, '--create', '--file=-', '--format=pax', '--sparse', '--no-recursion', '--null',
            '--verbatim-files-from', '--files-from=-', '--hard-dereference', '--xattrs', '--xattrs-include=*',
        ], null, null, $names, null);
        $tar->run();

        return streamOf($tar->getOutput());
    };
    $this->list = fn (): string => (new Process(['find', '.', '-printf', FIND], $this->root))->mustRun()->getOutput();
});

afterEach(fn () => $this->scratch->remove());

it('tells of a tree what its system calls tell', function (int $seed): void {
    $random = new Randomizer(new Mt19937($seed));
    $folders = [''];
    for ($i = 0; $i < 120; $i++) {
        $odd = ['a', 'a-b', ' ', "line\nfeed", "\xfe\xff", '-rf', '$(reboot)', '...', 'é', "tab\t"];
        $name = $odd[$random->getInt(0, 9)].$random->getInt(0, 99);
        $path = ltrim($folders[$random->getInt(0, count($folders) - 1)]."/$name", '/');
        if (file_exists("{$this->root}/$path") || is_link("{$this->root}/$path")) {
            continue;
        }
        match ($random->getInt(0, 5)) {
            0 => mkdir("{$this->root}/$path") && $folders[] = $path,
            1 => symlink(['a', '/etc/passwd', "li\nk", '../..', str_repeat('x', 300)][$random->getInt(0, 4)], "{$this->root}/$path"),
            2 => posix_mkfifo("{$this->root}/$path", 0600),
            default => file_put_contents("{$this->root}/$path", $random->getBytes($random->getInt(0, 3000))),
        };
    }
    $list = ($this->list)();
    $told = new ListedFolder('machine', Listing::read(streamOf($list)), fn (): ByteStream => throw new LogicException);
    $seen = FolderBelow::open($this->root);
    $all = function ($look): array {
        $found = [];
        foreach ((new SourceWalk($look))->folders() as $folder) {
            foreach ($folder->entries as $entry) {
                $found[] = [$folder->path, $entry];
            }
        }

        return $found;
    };
    expect($all($told))->toEqual($all($seen))->and(count($all($told)))->toBeGreaterThan(50)
        ->and($told->status('')?->type)->toBe(Status::FOLDER)->and($told->status('nothing'))->toBeNull();
})->with([1, 2, 3, 4]);

it('hands over contents in the order in which they are wanted, each as it was when it was read', function (): void {
    foreach (['first' => 'one', 'gone' => 'two', 'other' => 'three', 'large' => random_bytes(3 << 20), 'last' => ''] as $name => $content) {
        file_put_contents("{$this->root}/$name", $content);
    }
    link("{$this->root}/first", "{$this->root}/twin");
    (new Process(['setfattr', '-n', 'user.berth', '-v', 'nine', "{$this->root}/other"]))->mustRun();
    $list = ($this->list)();
    $folder = new ListedFolder('machine', Listing::read(streamOf($list)), function (array $numbers) use ($list): ByteStream {
        unlink("{$this->root}/gone");
        file_put_contents("{$this->root}/other", 'longer than before');

        return ($this->archive)($list, $numbers);
    });
    $got = [];
    $asked = array_map(
        fn (string $name): array => [$name, $name === 'first' ? 0 : Seen::BYTES],
        ['other', 'first', 'gone', 'large', 'twin', 'last'],
    );
    foreach ($folder->many($asked) as $seen) {
        $large = $seen->status !== null && $seen->bytes === null ? $folder->read($seen->path) : null;
        $got[$seen->path] = [$seen->status?->size, $large === null ? $seen->bytes : stream_get_contents($large), $seen->extended];
    }
    expect(array_keys($got))->toBe(['other', 'first', 'gone', 'large', 'twin', 'last'])
        ->and($got['other'])->toBe([18, 'longer than before', ['SCHILY.xattr.user.berth' => 'nine']])
        ->and($got['first'])->toBe([3, null, []])->and($got['gone'])->toBe([null, null, []])
        ->and($got['large'][1])->toBe(file_get_contents("{$this->root}/large"))
        ->and($got['twin'][1])->toBe('one')->and($got['last'][1])->toBe('');
});

it('takes nothing that it did not ask for', function (): void {
    file_put_contents("{$this->root}/asked", 'x');
    file_put_contents("{$this->root}/other", 'y');
    $list = ($this->list)();
    $places = array_flip(array_values(array_filter(explode("\0", $list), fn (string $one): bool => str_starts_with($one, './'))));
    $folder = new ListedFolder(
        'machine',
        Listing::read(streamOf($list)),
        fn (): ByteStream => ($this->archive)($list, [$places['./other'] + 2]),
    );
    expect(fn () => iterator_to_array($folder->many([['asked', Seen::BYTES]])))->toThrow(UnreadableListing::class, 'was not asked for');
});

it('refuses a list that no find wrote', function (string $list): void {
    expect(fn () => Listing::read(streamOf($list)))->toThrow(UnreadableListing::class);
})->with([
    'a path that leads out' => [told('./../etc/shadow')],
    'a path from the top' => [told('/etc/shadow')],
    'a path with a point in it' => [told('./a/./b')],
    'an empty name' => [told('./a//b')],
    'fields that are none' => [told('./a', 'f 644 root')],
    'a size that no number holds' => [told('./a', 'f 644 0 0 99999999999999999999 1.0 1.0 7 8 1 8 root root')],
    'an end in the middle' => [substr(told('./a'), 0, -3)],
    'no end at all' => [str_repeat('a', 300_000)],
]);

it('takes a time that no number of nanoseconds tells for the last that one does', function (): void {
    $list = Listing::read(streamOf(told('./far', 'f 644 0 0 5 999999999999.9999999999 -999999999999.5000000000 7 8 1 8 root root')));
    expect($list->at('far')?->status->mtime)->toBe(9_223_372_036_000_000_000)
        ->and($list->at('far')?->status->ctime)->toBe(-9_223_372_036_000_000_000);
});

it('takes the later of two that are told of one path: what is mounted there', function (): void {
    $below = told('./mnt', 'd 755 0 0 1 1.0 1.0 7 8 1 8 root root');
    $list = Listing::read(streamOf($below.told('./mnt', 'd 700 0 0 1 2.0 2.0 2 9 1 8 root root')));
    expect($list->at('mnt')?->status->mode)->toBe(0700)->and($list->at('mnt')?->number)->toBe(2)->and($list->names(''))->toBe(['mnt']);
});
