<?php

declare(strict_types=1);

use Kaiseki\Core\Archive\ArchiveFile;
use Kaiseki\Core\Archive\ContentDigest;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Archive\Place;
use Kaiseki\Core\Archive\TarReader;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Files\ConflictRule;
use Kaiseki\Core\Files\ContentPlace;
use Kaiseki\Core\Files\ContentSource;
use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Files\Journal;
use Kaiseki\Core\Files\NoProgress;
use Kaiseki\Core\Files\Placement;
use Kaiseki\Core\Files\PutBack;
use Kaiseki\Core\Files\RestoreOrder;
use Kaiseki\Core\Files\Staging;
use Kaiseki\Core\Files\Verification;
use Random\Engine\Mt19937;
use Random\Randomizer;
use Tests\Support\Scratch;
use Tests\Support\TreeListing;

// A hundred runs, each ended by SIGKILL at a moment of its own while it stages or places: half of them are gone on with and
// half undone. The tree is listed by find(1): it is exactly what was to come, or exactly what was there.

/** One plain tar, with each content where it was found. */
final class OneArchive implements ContentSource
{
    /** @var array<string, Place> */
    private array $places = [];

    private readonly ArchiveFile $archive;

    public function __construct(string $path)
    {
        $this->archive = ArchiveFile::at($path);
        $reader = new TarReader($this->archive->open());
        while (($entry = $reader->next()) !== null) {
            if ($entry->kind === EntryKind::File) {
                $digest = new ContentDigest;
                $reader->content($entry, $digest);
                $this->places[$digest->finish()] = $entry->place;
            }
        }
    }

    public function placeOf(string $digest, array $failed = []): ?ContentPlace
    {
        return isset($this->places[$digest]) && $failed === [] ? new ContentPlace('A', 0, $this->archive, $this->places[$digest]) : null;
    }

    public function canBeReadTwice(array $archiveKeys): bool
    {
        return true;
    }

    public function archiveFailed(string $archiveKey, string $because): void
    {
    }
}

it('is gone on with or undone exactly, a hundred times killed', function (int $files, int $times): void {
    $scratch = new Scratch;
    try {
        $random = new Randomizer(new Mt19937($files));
        $items = [];
        for ($i = 0; $i < $files; $i++) {
            $folder = 'tree/d'.$i % 12;
            $content = "content $i ".bin2hex($random->getBytes($random->getInt(1, 1500)));
            $path = $scratch->file("src/$folder/f$i", $content);
            touch($path, 1_600_000_000 + $i);
            $items['tree'] ??= (new Version(EntryKind::Folder, 0, 1_500_000_000_000_000_000, null, 0755, 0, 0, '', ''))->pack();
            $items[$folder] ??= (new Version(EntryKind::Folder, 0, 1_500_000_000_000_000_000, null, 0750, 0, 0, '', ''))->pack();
            $items["$folder/f$i"] = (new Version(
                EntryKind::File,
                strlen($content),
                (1_600_000_000 + $i) * 1_000_000_000,
                ContentDigest::of($content),
                0640,
                0,
                0,
                '',
                '',
            ))->pack();
        }
        $scratch->run('tar', '-cf', "{$scratch->path}/a.tar", '-C', "{$scratch->path}/src", 'tree');
        $source = new OneArchive("{$scratch->path}/a.tar");
        // A target with other versions of a third of it, in folders of its own modes and times.
        $scratch->folder('template');
        foreach (array_keys($items) as $i => $path) {
            if ($i % 3 === 0 && str_contains((string) $path, '/f')) {
                touch($scratch->file("template/$path", "old $path"), 1_400_000_000 + $i);
            }
        }
        $scratch->file('template/tree/own', 'not part of it');
        $scratch->run('sh', '-c', 'find template -type d -exec touch -d @1300000000 {} +');
        $killed = 0;
        for ($round = 0; $round < $times; $round++) {
            $at = "{$scratch->path}/t$round";
            $scratch->run('cp', '-a', "{$scratch->path}/template", $at);
            $before = TreeListing::of($at);
            $order = new RestoreOrder((string) $round, $items, $at, ConflictRule::Replace, '2026-11-12 0824');
            $carry = function () use ($order, $at, $source, $scratch, $round): void {
                $journal = Journal::open("{$scratch->path}/j$round");
                $target = FolderBelow::open($at);
                if (! Journal::isBegun($journal->path)) {
                    $journal->entered('', $target->status('') ?? throw new RuntimeException('no target'));
                }
                if (! Journal::holds($journal->path, Journal::STAGED)) {
                    (new Staging($order, $target, $source, new NoProgress))->fill();
                    $journal->add(Journal::STAGED);
                }
                if (! Journal::holds($journal->path, Journal::FINISHED)) {
                    (new Placement($order, $target, $journal))->place();
                }
            };
            $pid = pcntl_fork();
            if ($pid === 0) {
                $carry();
                posix_kill((int) getmypid(), SIGKILL);
            }
            usleep($random->getInt(500, $files * 130));
            $killed +=
                pcntl_waitpid($pid, $status, WNOHANG) === 0 && posix_kill($pid, SIGKILL) && pcntl_waitpid($pid, $status) === $pid ? 1 : 0;
            usleep(2000); // its second process ends with it
            clearstatcache(true);
            if ($round % 2 === 0) {
                $carry();
                $verification = new Verification;
                $verification->run(
                    $order,
                    FolderBelow::open($at),
                    new Placement($order, FolderBelow::open($at), Journal::open("{$scratch->path}/j$round")),
                    [],
                    fn () => null,
                    new NoProgress,
                );
                expect($verification->differences)
                    ->toBe([], "round $round")
                    ->and($verification->files)
                    ->toBe($files);
                expect(file_get_contents("$at/tree/own"))
                    ->toBe('not part of it')
                    ->and(glob("$at/.kaiseki-staging*") ?: [])
                    ->toBe([]);
            }
            // Undone: also what was gone on with.
            $putBack = new PutBack($order, FolderBelow::open($at));
            $putBack->run("{$scratch->path}/j$round");
            expect($putBack->left)
                ->toBe([])
                ->and(TreeListing::of($at))
                ->toBe($before, "round $round");
            $scratch->run('rm', '-rf', $at);
        }
        expect($killed)->toBeGreaterThan(intdiv($times, 3));
    } finally {
        $scratch->remove();
    }
})->with(['one process' => [240, 88], 'two processes' => [1400, 12]]);
