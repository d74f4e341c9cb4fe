<?php

declare(strict_types=1);

use Kaiseki\Core\Archive\AccessList;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\Version;
use Kaiseki\Core\Files\ConflictRule;
use Kaiseki\Core\Files\Deed;
use Kaiseki\Core\Files\FolderBelow;
use Kaiseki\Core\Files\Journal;
use Kaiseki\Core\Files\NoProgress;
use Kaiseki\Core\Files\PermissionRun;
use Kaiseki\Core\Files\Permissions;
use Kaiseki\Core\Files\PosixAcl;
use Kaiseki\Core\Files\Preview;
use Kaiseki\Core\Files\PreviewLine;
use Kaiseki\Core\Files\PutBack;
use Kaiseki\Core\Files\RestoreOrder;
use Kaiseki\Core\Files\Seen;
use Kaiseki\Core\Files\UnableToRestore;
use Kaiseki\Core\Proof\PermissionSheet;
use Kaiseki\Core\Protect\SourceWalk;
use Random\Engine\Xoshiro256StarStar;
use Random\Randomizer;
use Tests\Support\Scratch;

// Against setfacl and getfacl (Debian's acl), which the project does not use to give permissions.

/** A tree with what people give each other in it, by a seed. */
final class SharedTree
{
    public readonly string $at;

    public readonly FolderBelow $folder;

    private const PEOPLE = ['daemon', 'mail', 'backup', '70001'];

    private const GROUPS = ['games', 'mail', 'users', '70002'];

    public function __construct(public readonly Scratch $scratch, private readonly Randomizer $random)
    {
        $this->at = $scratch->folder('library');
        foreach (['charts', 'charts/approaches', "odd \n name\\", 'crew'] as $folder) {
            $scratch->folder("library/$folder");
            foreach (range(1, 3) as $n) {
                touch($scratch->file("library/$folder/document $n", "as of $n"), 1_500_000_000 + $n);
            }
        }
        symlink('charts', "{$this->at}/way");
        posix_mkfifo("{$this->at}/pipe", 0640);
        $this->folder = FolderBelow::open($this->at);
    }

    /** @return list<string> all that has permissions, below the top */
    public function paths(): array
    {
        $found = $this->scratch->run('find', $this->at, '-mindepth', '1', '!', '-type', 'l', '-printf', '%P\\0');
        $paths = explode("\0", rtrim($found, "\0"));
        sort($paths);

        return $paths;
    }

    public function scramble(): void
    {
        foreach ($this->paths() as $path) {
            $at = "{$this->at}/$path";
            if (posix_geteuid() === 0) {
                chown($at, $this->random->getInt(0, 3));
                chgrp($at, $this->random->getInt(0, 3));
            }
            $this->scratch->run('setfacl', '--remove-all', '--', $at);
            chmod($at, $this->random->getInt(0, 0777) | 0600);
            if ($this->random->getInt(0, 2) > 0) {
                $entries = implode(',', [...$this->named('u', self::PEOPLE), ...$this->named('g', self::GROUPS), 'm::'.$this->may()]);
                $this->scratch->run('setfacl', '--modify', $entries, '--', $at);
            }
            if (is_dir($at) && $this->random->getInt(0, 1) === 1) {
                $this->scratch->run('setfacl', '--default', '--modify', implode(',', $this->named('u', self::PEOPLE, 1)), '--', $at);
            }
        }
    }

    /** @return array<array-key, string> path => version, packed, as a set would have it */
    public function versions(): array
    {
        $items = [];
        foreach ((new SourceWalk($this->folder))->folders() as $folder) {
            foreach ($folder->entries as $entry) {
                $entry = (new SourceWalk($this->folder))->entry($entry->path);
                $items[$entry->path] = (new Version(
                    $entry->kind, $entry->size, $entry->mtime, null, $entry->mode, $entry->uid, $entry->gid, $entry->uname, $entry->gname,
                    $entry->linkTarget, access: $entry->access,
                ))->pack();
            }
        }
        ksort($items);

        return $items;
    }

    /** All permissions, as getfacl prints them, with whose everything is. */
    public function listed(): string
    {
        return $this->scratch->run('getfacl', '--recursive', '--physical', '--numeric', '--absolute-names', '--', $this->at);
    }

    /** What must not change. */
    public function rest(): string
    {
        return $this->scratch->run('find', $this->at, '-mindepth', '1', '-printf', '%P %y %s %T@ %l\\n');
    }

    public function order(array $items): RestoreOrder
    {
        return new RestoreOrder('7', $items, $this->at, ConflictRule::Beside, '2026-11-12 0824', permissionsOnly: true);
    }

    /** @return list<string> */
    private function named(string $tag, array $of, int $atLeast = 0): array
    {
        $some = array_slice($this->random->shuffleArray($of), 0, $this->random->getInt($atLeast, 3));

        return array_map(fn (string $who): string => "$tag:$who:".$this->may(), $some);
    }

    private function may(): string
    {
        return ['---', 'r--', 'rw-', 'r-x', 'rwx', '-wx'][$this->random->getInt(0, 5)];
    }
}

beforeEach(function (): void {
    $this->scratch = new Scratch('/var/tmp'); // on a disk, since not every file system in memory has lists
    $this->tree = fn (int $seed): SharedTree => new SharedTree($this->scratch, new Randomizer(new Xoshiro256StarStar($seed)));
    $this->lists = fn (FolderBelow $folder, string $path): ?string => $folder->access($path, is_dir("{$folder->path}/$path"));
});

afterEach(function (): void {
    unset($this->tree, $this->lists);
    $this->scratch->remove();
});

it('reads lists as getfacl prints them, and gives them as setfacl does', function (int $seed): void {
    $tree = ($this->tree)($seed);
    $tree->scramble();
    foreach ($tree->paths() as $path) {
        $printed = $this->scratch->run('getfacl', '--omit-header', '--absolute-names', '--', "{$tree->at}/$path");
        $text = ($this->lists)($tree->folder, $path);
        expect($text)->toBe(AccessList::textOf($printed), $path);
        if ($text !== '' && is_file("{$tree->at}/$path")) {
            $twin = $this->scratch->file('twin', '');
            $this->scratch->run('setfacl', '--set', $text, $twin);
            expect($this->scratch->run('getfacl', '--omit-header', '--absolute-names', '--', $twin))->toBe($printed);
        }
    }
})->with(range(1, 3));

it('gives everything its permissions of then, and changes nothing else; put back, all is as it was', function (int $seed): void {
    $tree = ($this->tree)($seed);
    $tree->scramble();
    [$then, $items, $rest] = [$tree->listed(), $tree->versions(), $tree->rest()];
    $tree->scramble();
    $flattened = $tree->listed();
    expect($flattened)->not->toBe($then);
    $order = $tree->order($items);
    $preview = new Preview($order, $tree->folder);
    $lines = array_filter([...$preview->lines()], fn (PreviewLine $line): bool => $line->deed !== Deed::Skipped);
    $journal = Journal::open($this->scratch->at('journal'));
    $run = new PermissionRun($order, $tree->folder, $journal);
    $run->give(new NoProgress);
    expect($tree->listed())->toBe($then)->and($tree->rest())->toBe($rest);
    expect([$run->given, $run->same])->toBe([$preview->counts()['permissions']->entries, $preview->counts()['kept']->entries])
        ->and($run->given + $run->same)->toBe(count($lines));
    $right = 0;
    $run->verify(function () use (&$right): void {
        $right++;
    });
    expect([$right, $run->differences])->toBe([count($lines), []]);
    $back = new PutBack($order, $tree->folder);
    $back->run($journal->path);
    expect($tree->listed())->toBe($flattened)->and($tree->rest())->toBe($rest)->and($back->left)->toBe([])
        ->and($back->permitted)->toBe($run->given);
})->with(range(1, 4));

it('is gone on with or put back, wherever it was killed', function (): void {
    $random = new Randomizer(new Xoshiro256StarStar(31));
    $tree = ($this->tree)(31);
    $tree->scramble();
    [$then, $items] = [$tree->listed(), $tree->versions()];
    $killed = 0;
    foreach (range(1, 24) as $round) {
        $tree->scramble();
        $before = $tree->listed();
        $order = $tree->order($items);
        $at = $this->scratch->at("journal$round");
        $pid = pcntl_fork();
        if ($pid === 0) {
            (new PermissionRun($order, FolderBelow::open($tree->at), Journal::open($at)))->give(new NoProgress);
            posix_kill((int) getmypid(), SIGKILL);
        }
        usleep($random->getInt(300, 6_000));
        posix_kill($pid, SIGKILL);
        pcntl_waitpid($pid, $status);
        $killed += Journal::holds($at, Journal::FINISHED) ? 0 : 1;
        if ($round % 2 === 0) {
            $run = new PermissionRun($order, $tree->folder, Journal::open($at));
            $run->give(new NoProgress);
            $run->verify(fn () => null);
            expect($tree->listed())->toBe($then, "round $round")->and($run->differences)->toBe([]);
        }
        $back = new PutBack($order, $tree->folder);
        is_file($at) && $back->run($at);
        expect($tree->listed())->toBe($before, "round $round")->and($back->left)->toBe([]);
    }
    expect($killed)->toBeGreaterThan(2);
});

it('leaves what somebody has changed since, and says so', function (): void {
    $tree = ($this->tree)(5);
    $tree->scramble();
    $items = $tree->versions();
    $tree->scramble();
    $order = $tree->order($items);
    $journal = Journal::open($this->scratch->at('journal'));
    (new PermissionRun($order, $tree->folder, $journal))->give(new NoProgress);
    $path = 'charts/document 1';
    chmod("{$tree->at}/$path", 0604 ^ (fileperms("{$tree->at}/$path") & 07)); // others may something else than it was given
    clearstatcache(true);
    $now = $this->scratch->run('getfacl', '--absolute-names', "{$tree->at}/$path");
    $back = new PutBack($order, $tree->folder);
    $back->run($journal->path);
    expect(array_map(fn ($left): string => "$left->path: $left->because", $back->left))->toBe(["$path: its permissions were changed since"])
        ->and($this->scratch->run('getfacl', '--absolute-names', "{$tree->at}/$path"))->toBe($now);
});

it('gives nothing to what is not there, is something else, or is a link; and never by way of one', function (): void {
    $tree = ($this->tree)(6);
    $tree->scramble();
    $items = $tree->versions();
    unlink("{$tree->at}/crew/document 1");
    unlink("{$tree->at}/crew/document 2");
    mkdir("{$tree->at}/crew/document 2");
    unlink("{$tree->at}/crew/document 3");
    $outside = $this->scratch->file('outside', 'of somebody else');
    chmod($outside, 0600);
    symlink($outside, "{$tree->at}/crew/document 3");
    $run = new PermissionRun($tree->order($items), $tree->folder, Journal::open($this->scratch->at('journal')));
    $run->give(new NoProgress);
    $told = [];
    foreach ($run->leftOut as $left) {
        $told[$left->path] = [$left->because, $left->isLoss];
    }
    ksort($told);
    expect($told)->toBe([
        'crew/document 1' => ['it is not there, and only permissions come back', true],
        'crew/document 2' => ['a folder stands there', true],
        'crew/document 3' => ['a link stands there', true],
        'way' => ['a link has no permissions of its own', false],
    ]);
    expect(fn () => $tree->folder->permit('crew/document 3', new Permissions(0666, 0, 0, ''), false))
        ->toThrow(UnableToRestore::class, 'it has no permissions of its own');
    clearstatcache(true);
    expect(fileperms($outside) & 07777)->toBe(0600);
});

it('leaves out of a list whom nobody knows here, and says who', function (): void {
    $tree = ($this->tree)(7);
    $path = 'charts/document 1';
    $version = Version::unpack($tree->versions()[$path]);
    $list = 'user::rw-,user:mail:r--,user:a-purser-long-gone:rw-,group::r--,group:70002:r--,mask::rw-,other::---';
    $asked = new Version(...['access' => $list, 'mode' => 0660] + get_object_vars($version));
    $run = new PermissionRun($tree->order([$path => $asked->pack()]), $tree->folder, Journal::open($this->scratch->at('journal')));
    $run->give(new NoProgress);
    $run->verify(fn () => null);
    expect($run->differences)->toBe([])->and($run->leftOut)->toHaveCount(1)
        ->and($run->leftOut[0]->because)->toContain('a-purser-long-gone')
        ->and($run->leftOut[0]->isLoss)->toBeFalse()
        ->and(($this->lists)($tree->folder, $path))->toBe('user::rw-,user:mail:r--,group::r--,group:70002:r--,mask::rw-,other::---');
});

it('never adds a set-user bit, and keeps one that was and is there', function (): void {
    $tree = ($this->tree)(8);
    [$one, $two, $folder] = ["{$tree->at}/charts/document 1", "{$tree->at}/charts/document 2", "{$tree->at}/charts"];
    chmod($one, 04755);
    chmod($two, 04755);
    chmod($folder, 02775);
    clearstatcache(true);
    $items = array_intersect_key($tree->versions(), array_flip(['charts', 'charts/document 1', 'charts/document 2']));
    chmod($one, 0700);
    chmod($two, 04700);
    chmod($folder, 0700);
    (new PermissionRun($tree->order($items), $tree->folder, Journal::open($this->scratch->at('journal'))))->give(new NoProgress);
    clearstatcache(true);
    expect(sprintf('%o %o %o', fileperms($one) & 07777, fileperms($two) & 07777, fileperms($folder) & 07777))->toBe('755 4755 2775');
});

it('is the same work as a sheet for a person, who can take it back too', function (): void {
    $tree = ($this->tree)(9);
    $tree->scramble();
    [$then, $items, $rest] = [$tree->listed(), $tree->versions(), $tree->rest()];
    $tree->scramble();
    $before = $tree->listed();
    $script = implode('', [...PermissionSheet::script('Give them back', ['of the library'], $tree->order($items))]);
    $sheet = $this->scratch->file('sheet', $script);
    $this->scratch->run('sh', $sheet, $tree->at, $this->scratch->at('kept'));
    expect($tree->listed())->toBe($then)->and($tree->rest())->toBe($rest);
    $this->scratch->run('sh', '-c', 'cd "$1" && setfacl --restore="$2"', 'sh', $tree->at, $this->scratch->at('kept'));
    expect($tree->listed())->toBe($before);
});

it('takes no text for a list that is none, and holds none that is too long', function (string $text, string $as): void {
    expect(AccessList::textOf($text))->toBe($as);
})->with([
    'plain' => ["user::rw-\ngroup::r--\nother::---", ''],
    'short form, with a remark' => [
        'u::rw-,u:mail:r--,g::r--,m::rw-,o::--- # as of then',
        'user::rw-,user:mail:r--,group::r--,mask::rw-,other::---',
    ],
    'with numbers' => ["user::rwx,\nuser:ann:r-x:1001,mask::r-x", 'user::rwx,user:ann:r-x:1001,mask::r-x'],
    'handed on' => ['default:user::rwx', 'default:user::rwx'],
    'nothing' => ['', ''],
    'a command' => ['user:$(reboot):rwx;x', '?'],
    'no permissions' => ['user:mail:rwz', '?'],
    'a named mask' => ['mask:mail:rwx', '?'],
    'too many' => [implode(',', array_map(fn (int $n): string => "user:someone$n:rwx", range(1, 400))), '?'],
]);

it('takes a list off what is narrowed, and gives the group no more than it had', function (): void {
    $list = 'user::rw-,user:mail:rwx,group::r--,mask::rwx,other::rw-';
    $version = new Version(EntryKind::File, 1, 0, null, 0676, 0, 0, '', '', access: $list);
    expect([$version->narrowedTo(07777)->mode, $version->narrowedTo(07777)->access])->toBe([0646, ''])
        ->and($version->narrowedTo(0700)->mode)->toBe(0600);
});

it('says what becomes of each', function (): void {
    $then = new Permissions(0750, 0, 8, 'user::rwx,user:mail:r-x,group::r-x,mask::r-x,other::---');
    $now = new Permissions(01777, 0, 0, '');
    expect($then->changesFrom($now))->toBe([
        'rwxrwxrwt becomes rwxr-x---',
        'group root becomes mail',
        'the owning group may r-x, not rwx',
        'user:mail:r-x comes',
    ]);
    $byNumber = str_replace('mail', '8', (string) $then->access);
    expect(PosixAcl::areSame((string) $then->access, $byNumber))->toBeTrue()
        ->and(Permissions::seen(new Seen('x', null)))->toBeNull();
});
