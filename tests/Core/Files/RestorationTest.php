<?php

declare(strict_types=1);

use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Archive\TarReader;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Files\ConflictRule;
use Kaiseki\Core\Files\ContentPlace;
use Kaiseki\Core\Files\ContentSource;
use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Files\Journal;
use Kaiseki\Core\Files\LeftOut;
use Kaiseki\Core\Files\NoProgress;
use Kaiseki\Core\Files\Placement;
use Kaiseki\Core\Files\Progress;
use Kaiseki\Core\Files\RestoreOrder;
use Kaiseki\Core\Files\Staging;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Files\Verification;
use Tests\Support\Scratch;
use Tests\Support\TarBytes;

/** Archives in memory's stead: each content in the first of them that has it and has not failed. */
final class SomeArchives implements ContentSource
{
    /** @var list<array{string, ArchiveFile, array<string, \Kaiseki\Core\Archive\Place>}> */
    private array $archives = [];

    /** @var array<string, string> */
    public array $failed = [];

    public function add(string $key, string $path, ?callable $damage = null): void
    {
        $places = [];
        $reader = new TarReader(ArchiveFile::at($path)->open());
        while (($entry = $reader->next()) !== null) {
            $digest = new ContentDigest;
            $reader->content($entry, $digest);
            $places[$digest->finish()] = $entry->place;
        }
        if ($damage !== null) {
            file_put_contents($path, $damage((string) file_get_contents($path)));
        }
        $this->archives[] = [$key, ArchiveFile::at($path), $places];
    }

    public function placeOf(string $digest, array $failed = []): ?ContentPlace
    {
        foreach ($this->archives as $order => [$key, $archive, $places]) {
            if (isset($places[$digest]) && ! in_array($key, $failed, true)) {
                return new ContentPlace($key, $order, $archive, $places[$digest]);
            }
        }

        return null;
    }

    public function canBeReadTwice(array $archiveKeys): bool
    {
        return true;
    }

    public function archiveFailed(string $archiveKey, string $because): void
    {
        $this->failed[$archiveKey] = $because;
    }
}

function fileVersion(string $content, int $group = 0, int $mode = 0644): string
{
    return (new Version(
        EntryKind::File,
        strlen($content),
        1_700_000_000_123_456_789,
        $content === '' ? ContentDigest::of('') : ContentDigest::of($content),
        $mode,
        0,
        0,
        '',
        '',
        '',
        $group,
    ))->pack();
}

function folderVersion(int $mode = 0755): string
{
    return (new Version(EntryKind::Folder, 0, 1_600_000_000_000_000_000, null, $mode, 0, 0, '', ''))->pack();
}

beforeEach(function (): void {
    $this->scratch = new Scratch;
    $this->target = FolderBelow::open($this->scratch->folder('target'));
    $this->order = fn (array $items, ConflictRule $rule = ConflictRule::Beside): RestoreOrder => new RestoreOrder(
        '7',
        $items,
        $this->target->path,
        $rule,
        '2026-11-12 0824',
    );
    $this->carry = function (RestoreOrder $order, ContentSource $source): array {
        $staging = new Staging($order, $this->target, $source, new NoProgress);
        $staging->fill();
        $placement = new Placement($order, $this->target, Journal::open("{$this->scratch->path}/journal"));
        $placement->place();
        $verification = new Verification;
        $verification->run($order, $this->target, $placement, $staging->leftOut(), fn () => null, new NoProgress);

        return [$staging, $placement, $verification];
    };
});

afterEach(function (): void {
    unset($this->target, $this->order, $this->carry);
    $this->scratch->remove();
});

it('reads a content once for all files that hold it', function (): void {
    $source = new SomeArchives;
    $source->add(
        'A',
        TarBytes::new()
            ->member('x', 'same')
            ->member('y', 'other')
            ->write("{$this->scratch->path}/a.tar"),
    );
    $items = ['d' => folderVersion()];
    foreach (range(1, 150) as $i) {
        $items["d/f$i"] = fileVersion('same');
    }
    [$staging, , $verification] = ($this->carry)(($this->order)($items), $source);
    expect($verification->files)->toBe(150)->and($verification->differences)->toBe([]);
    expect($staging->whatWasRead()['A']->members)->toBe(1);
});

it('takes a content from the next archive when the first gives it wrong', function (): void {
    $source = new SomeArchives;
    $source->add(
        'bad',
        TarBytes::new()
            ->member('x', 'precious')
            ->member('y', 'fine')
            ->write("{$this->scratch->path}/a.tar"),
        fn (string $bytes): string => str_replace('precious', 'PRECIOUS', $bytes),
    );
    $source->add(
        'good',
        TarBytes::new()
            ->member('elsewhere', 'precious')
            ->write("{$this->scratch->path}/b.tar"),
    );
    [$staging, , $verification] = ($this->carry)(($this->order)(['x' => fileVersion('precious'), 'y' => fileVersion('fine')]), $source);
    expect($verification->files)
        ->toBe(2)
        ->and($staging->leftOut())
        ->toBe([])
        ->and(array_keys($source->failed))
        ->toBe(['bad']);
    expect(file_get_contents("{$this->target->path}/x"))->toBe('precious');
});

it('puts nothing under a final name that is not right', function (): void {
    $source = new SomeArchives;
    $source->add(
        'bad',
        TarBytes::new()
            ->member('x', 'precious')
            ->write("{$this->scratch->path}/a.tar"),
        fn (string $bytes): string => substr($bytes, 0, 515),
    );
    [$staging] = ($this->carry)(($this->order)(['x' => fileVersion('precious')]), $source);
    expect(array_map(fn (LeftOut $left): array => [$left->path, $left->isLoss], $staging->leftOut()))->toBe([['x', true]]);
    expect(scandir($this->target->path))->toBe(['.', '..']);
});

it('keeps names of one file linked, and parts what is not', function (): void {
    $source = new SomeArchives;
    $source->add(
        'A',
        TarBytes::new()
            ->member('x', 'same')
            ->write("{$this->scratch->path}/a.tar"),
    );
    ($this->carry)(($this->order)(['a' => fileVersion('same', 99), 'b' => fileVersion('same', 99), 'c' => fileVersion('same')]), $source);
    $inode = fn (string $name): int => (int) fileinode("{$this->target->path}/$name");
    expect($inode('a'))->toBe($inode('b'))->and($inode('c'))->not->toBe($inode('a'));
});

it('gives folders their modes and times last, also such as nobody may write to', function (): void {
    $source = new SomeArchives;
    $source->add(
        'A',
        TarBytes::new()
            ->member('x', 'content')
            ->write("{$this->scratch->path}/a.tar"),
    );
    [, , $verification] = ($this->carry)(
        ($this->order)([
            'locked' => folderVersion(0555),
            'locked/deep' => folderVersion(0500),
            'locked/deep/f' => fileVersion('content', 0, 0400),
        ]),
        $source,
    );
    expect($verification->folders)->toBe(2)->and($verification->differences)->toBe([]);
    expect(fileperms("{$this->target->path}/locked") & 07777)
        ->toBe(0555)
        ->and(filemtime("{$this->target->path}/locked/deep"))
        ->toBe(1_600_000_000);
});

it('goes into folders that are there, and leaves what they are as it is', function (): void {
    mkdir("{$this->target->path}/d");
    chmod("{$this->target->path}/d", 0711); // whatever the umask
    file_put_contents("{$this->target->path}/d/own", 'kept');
    $source = new SomeArchives;
    $source->add(
        'A',
        TarBytes::new()
            ->member('x', 'content')
            ->write("{$this->scratch->path}/a.tar"),
    );
    ($this->carry)(($this->order)(['d' => folderVersion(0700), 'd/new' => fileVersion('content')]), $source);
    expect(fileperms("{$this->target->path}/d") & 07777)
        ->toBe(0711)
        ->and(file_get_contents("{$this->target->path}/d/own"))
        ->toBe('kept')
        ->and(file_get_contents("{$this->target->path}/d/new"))
        ->toBe('content');
});

it('replaces nothing that is the same already', function (): void {
    $source = new SomeArchives;
    $source->add(
        'A',
        TarBytes::new()
            ->member('x', 'content')
            ->write("{$this->scratch->path}/a.tar"),
    );
    $order = ($this->order)(['f' => fileVersion('content')], ConflictRule::Replace);
    ($this->carry)($order, $source);
    $inode = fileinode("{$this->target->path}/f");
    unlink("{$this->scratch->path}/journal");
    [, $placement] = ($this->carry)($order, $source);
    clearstatcache();
    expect(fileinode("{$this->target->path}/f"))
        ->toBe($inode)
        ->and($placement->kept())
        ->toBe(['f' => 'it is the same already'])
        ->and($placement->replaced())
        ->toBe(0);
});

it('finds what is not right when it reads the target again', function (callable $spoil, string $says): void {
    $source = new SomeArchives;
    $source->add(
        'A',
        TarBytes::new()
            ->member('x', 'content')
            ->write("{$this->scratch->path}/a.tar"),
    );
    $order = ($this->order)(['f' => fileVersion('content')]);
    [, $placement] = ($this->carry)($order, $source);
    $spoil("{$this->target->path}/f");
    $verification = new Verification;
    $verification->run($order, $this->target, $placement, [], fn () => null, new NoProgress);
    expect($verification->files)->toBe(0)->and($verification->differences[0]->because)->toContain($says);
})->with([
    'changed' => [fn (string $f) => file_put_contents($f, 'CONTENT'), 'digest'],
    'longer' => [fn (string $f) => file_put_contents($f, '!', FILE_APPEND), 'size'],
    'another mode' => [fn (string $f) => chmod($f, 0600), 'its mode is 0600, not 0644'],
    'another time' => [fn (string $f) => touch($f, 5), 'time'],
    'gone' => [fn (string $f) => unlink($f), 'not there'],
    'a folder' => [fn (string $f) => unlink($f) && mkdir($f), 'something else'],
    'a link' => [fn (string $f) => rename($f, "$f.real") && symlink("$f.real", $f), 'something else'],
]);

it('reads its journal back, whatever the names, and passes over a last line that was cut', function (): void {
    $path = "{$this->scratch->path}/j";
    $journal = Journal::open($path);
    $journal->add(Journal::PLACED, "a\tb\n\xff%", 'x');
    $journal->add(Journal::SET_ASIDE, 'p', 'q');
    file_put_contents($path, "placed\thalf", FILE_APPEND);
    expect([...Journal::read($path)])->toBe([[Journal::PLACED, "a\tb\n\xff%", 'x'], [Journal::SET_ASIDE, 'p', 'q']]);
    expect(Journal::holds($path, Journal::SET_ASIDE))->toBeTrue()->and(Journal::holds($path, Journal::STAGED))->toBeFalse();
    expect([...Journal::read('/nowhere')])->toBe([]);
});

it('numbers clashing names in one folder, also where only their case differs', function (): void {
    $flat = RestoreOrder::flatten([
        'a' => folderVersion(),
        'a/x.txt' => fileVersion('1'),
        'b/X.txt' => fileVersion('2'),
        'b/x.txt' => fileVersion('3'),
        'x' => fileVersion('4'),
    ]);
    expect(array_keys($flat))->toBe(['x.txt', 'X (2).txt', 'x (3).txt', 'x']);
});

/** Ends the work after so many files. */
final class StopAfter implements Progress
{
    private int $files = 0;

    public function __construct(private readonly int $most)
    {
    }

    public function advanced(int $files, int $bytes): void
    {
        $this->files += $files;
        if ($this->files >= $this->most) {
            throw UnableToRestore::stopped();
        }
    }
}

it('goes on where it was stopped: what is staged and right is not brought again, what is half there or spoiled is', function (): void {
    $tar = TarBytes::new();
    $items = ['d' => folderVersion()];
    foreach (range(1, 100) as $i) {
        $tar->member("f$i", "content $i");
        $items["d/f$i"] = fileVersion("content $i");
    }
    $items['d/one'] = $items['d/other'] = fileVersion('content 7', 5);
    $items['d/empty'] = fileVersion('');
    $source = new SomeArchives;
    $source->add('A', $tar->write("{$this->scratch->path}/a.tar"));
    $order = ($this->order)($items);
    $stopped = new Staging($order, $this->target, $source, new StopAfter(60));
    expect(fn () => $stopped->fill())->toThrow(UnableToRestore::class, 'stopped');
    $staged = "{$this->target->path}/{$order->staging()}/d";
    $there = glob("$staged/f*") ?: [];
    expect(count($there))->toBeGreaterThan(50)->toBeLessThan(100);
    // One was spoiled without its size or time telling, one has only half of what it should.
    $time = filemtime($there[3]);
    file_put_contents($there[3], strrev((string) file_get_contents($there[3])));
    touch($there[3], $time);
    file_put_contents($there[4], 'cont');
    $again = new Staging($order, $this->target, $source, new NoProgress);
    $again->fill();
    expect($again->whatWasRead()['A']->members)->toBeLessThanOrEqual(100 - count($there) + 4);
    foreach (range(1, 100) as $i) {
        expect(file_get_contents("$staged/f$i"))->toBe("content $i");
    }
    expect(fileinode("$staged/one"))->toBe(fileinode("$staged/other"))->and(filesize("$staged/empty"))->toBe(0);
});
