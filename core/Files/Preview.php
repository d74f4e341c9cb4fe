<?php

declare(strict_types=1);

namespace Kaiseki\Core\Files;

use HashContext;
use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Catalog\Version;

/**
 * What a run would do, thing by thing, against what stands in its target now. Nothing is written. The counts, the
 * fingerprint and the warnings are there when all lines were taken.
 */
final class Preview
{
    /** A path that Linux takes, with the NUL behind it (PATH_MAX in limits.h), and a name (NAME_MAX). */
    private const LONGEST_PATH = 4096;

    private const LONGEST_NAME = 255;

    /** Of what differs in nothing but permissions. */
    private const ANOTHER_MODE = 'the same content, another mode';

    private const ANOTHER_LIST = 'the same content, another access list';

    public const ONLY_PERMISSIONS = [self::ANOTHER_MODE, self::ANOTHER_LIST];

    /** Things of the target that are asked about at once. */
    private const TOGETHER = 500;

    /** @var array<string, DeedCount> deed => how many */
    private array $counts = [];

    /** @var array<array-key, true> folders that are not in the target, so that nothing can stand in them */
    private array $fresh = [];

    /** @var array<array-key, string> folders that do not come back => why */
    private array $skipped = [];

    /** @var list<string> folders of the order that stand in the target */
    private array $entered = [];

    /** @var array<array-key, true> files of this batch whose content was read */
    private array $read = [];

    /** @var array<array-key, string> lower-case path => path, where the target takes them for the same */
    private array $lower = [];

    private readonly HashContext $state;

    private bool $ignoresCase = false;

    private int $replacedBytes = 0;

    private int $skippedForPresent = 0;

    /** @var list<string> */
    private array $warnings = [];

    private readonly OrderItems $items;

    private readonly Owners $owners;

    /**
     * @param  int  $digestBytes  so many bytes of what stands there are read at most, to tell whether they are the same
     * @param  OrderItems|null  $items  instead of those that the order holds
     */
    public function __construct(
        private readonly RestoreOrder $order,
        private readonly Look $target,
        private int $digestBytes = PHP_INT_MAX,
        ?OrderItems $items = null,
    ) {
        $this->state = hash_init('sha256');
        $this->items = $items ?? new HeldItems($order->items);
        $this->owners = $target instanceof Target ? $target->owners() : Owners::here();
    }

    /** @return iterable<PreviewLine> in the order of the order; what is left alone comes last */
    public function lines(): iterable
    {
        $this->ignoresCase = $this->targetIgnoresCase();
        foreach ($this->batches() as $batch) {
            $present = $this->presentOf($batch);
            foreach ($batch as $path => $packed) {
                $line = $this->line((string) $path, $packed, $present[$path] ?? null);
                if ($line !== null) {
                    yield $this->counted($line);
                }
            }
        }
        foreach ($this->entered as $folder) {
            yield from $this->leftAloneIn($folder);
        }
    }

    /** @return iterable<array<array-key, string>> so many items at a time as are asked about together: path => version, packed */
    private function batches(): iterable
    {
        $batch = [];
        foreach ($this->items->all() as $path => $packed) {
            if ($path === '' && ! $this->order->permissionsOnly) {
                $this->entered[] = '';

                continue;
            }
            $batch[$path] = $packed;
            if (count($batch) >= self::TOGETHER) {
                yield $batch;
                $batch = [];
            }
        }
        if ($batch !== []) {
            yield $batch;
        }
    }

    /**
     * What stands where items come back. Some of it may not be needed: what is in the batch itself decides that.
     *
     * @param  array<array-key, string>  $batch  path => version, packed
     * @return array<array-key, Seen> by path
     */
    private function presentOf(array $batch): array
    {
        $asked = [];
        foreach (array_keys($batch) as $path) {
            [$folder] = EntryPath::split((string) $path);
            if (! isset($this->fresh[$folder]) && ! isset($this->skipped[$folder])) {
                $asked[] = [(string) $path, $this->order->permissionsOnly || Version::hasList($batch[$path]) ? Seen::ACCESS : 0];
            }
        }
        $present = $digests = $this->read = [];
        foreach ($this->target->many($asked) as $seen) {
            $present[$seen->path] = $seen;
            if ($this->isToBeRead($seen->status, Version::unpack($batch[$seen->path]))) {
                $this->digestBytes -= $seen->status->size ?? 0;
                $digests[] = [$seen->path, Seen::DIGEST | ($seen->access === null ? 0 : Seen::ACCESS)];
                $this->read[$seen->path] = true;
            }
        }
        foreach ($digests === [] ? [] : $this->target->many($digests) as $seen) {
            $present[$seen->path] = $seen;
        }

        return $present;
    }

    /** Whether only its content tells if it is the same. */
    private function isToBeRead(?Status $present, Version $version): bool
    {
        return ! $this->order->permissionsOnly && $present?->type === Status::FILE && $version->needsBytes()
            && $present->size === $version->size && $present->size <= $this->digestBytes;
    }

    /** @return iterable<PreviewLine> */
    private function leftAloneIn(string $folder): iterable
    {
        $others = [];
        foreach ($this->target->names($folder) as $name) {
            $path = EntryPath::join($folder, $name);
            if (! $this->items->has($path) && ! str_starts_with($name, '.kaiseki-')) {
                $others[] = [$path, 0];
            }
        }
        foreach ($others === [] ? [] : $this->target->many($others) as $seen) {
            $isFolder = $seen->status?->type === Status::FOLDER;
            yield $this->counted(
                new PreviewLine($seen->path, Deed::LeftAlone, 'it is not part of the order', $isFolder, 0, $seen->status),
            );
        }
    }

    /** @return array<string, DeedCount> deed => how many, in the order of Deed */
    public function counts(): array
    {
        $counts = [];
        foreach (Deed::cases() as $deed) {
            $counts[$deed->value] = $this->counts[$deed->value] ?? new DeedCount;
        }

        return $counts;
    }

    /** Things that stand in the target where something comes back. */
    public function present(): int
    {
        $counts = $this->counts();

        return array_sum(
            array_map(fn (Deed $deed): int => $counts[$deed->value]->entries, [
                Deed::Replaced,
                Deed::PresentRenamed,
                Deed::PutBeside,
                Deed::Permitted,
                Deed::Kept,
            ]),
        ) + $this->skippedForPresent;
    }

    /** Bytes that are staged: all that comes back stands beside what it replaces until that is set aside, and then with it. */
    public function bytesNeeded(): int
    {
        return array_sum(array_column($this->counts, 'bytes'));
    }

    /** Bytes that are free on the volume of the target. */
    public function bytesFree(): int
    {
        return $this->target->freeBytes();
    }

    /** Bytes of what is set aside: they stay on the volume until the set-aside is cleared. */
    public function bytesSetAside(): int
    {
        return $this->replacedBytes;
    }

    /** @return list<string> sentences on what the target may not take, the first hundred */
    public function warnings(): array
    {
        return $this->warnings;
    }

    /** Changes whenever something that stands where something comes back does. */
    public function fingerprint(): string
    {
        return hash_final(hash_copy($this->state));
    }

    private function counted(PreviewLine $line): PreviewLine
    {
        $count = $this->counts[$line->deed->value] ??= new DeedCount;
        $count->entries++;
        $count->files += $line->isFolder ? 0 : 1;
        $count->bytes += $line->bytes;

        return $line;
    }

    private function line(string $path, string $packed, ?Seen $seen): ?PreviewLine
    {
        [$folder, $name] = EntryPath::split($path);
        $isFolder = $packed[0] === 'd';
        $version = Version::unpack($packed);
        if (isset($this->skipped[$folder])) {
            $isFolder && ($this->skipped[$path] = $this->skipped[$folder]);

            return new PreviewLine($path, Deed::Skipped, $this->skipped[$folder], $isFolder);
        }
        $left = RestoreOrder::leftOut($path, $version);
        if ($left !== null) {
            return new PreviewLine($path, Deed::Skipped, $left->because);
        }
        if ($this->order->permissionsOnly) {
            return $this->permission($path, $version, $seen);
        }
        $this->checkName($path, $name);
        $present = isset($this->fresh[$folder]) ? null : $seen?->status;
        if ($isFolder && $present?->type === Status::FOLDER) {
            $this->entered[] = $path;

            return null; // gone into
        }
        if ($isFolder) {
            $this->fresh[$path] = true;
        }
        $bytes = Version::bytesOf($packed);
        if ($present === null || $seen === null) {
            return new PreviewLine($path, Deed::Added, '', $isFolder, $bytes);
        }
        hash_update(
            $this->state,
            pack('J*', strlen($path), $present->type, $present->size, intdiv($present->mtime, 1_000_000_000), $present->inode).$path,
        );

        return $this->conflict($seen, $present, $version, $bytes);
    }

    private function permission(string $path, Version $version, ?Seen $seen): PreviewLine
    {
        $asked = new AskedPermissions($version, $seen ?? new Seen($path, null), $this->owners, $this->order->knowsLists);
        $now = $asked->present;
        if ($now !== null) {
            hash_update($this->state, pack('J*', strlen($path), $now->mode, $now->uid, $now->gid).$path.$now->access);
        }
        $isFolder = $version->kind === EntryKind::Folder;
        $asked->keepsList && $this->warn(AskedPermissions::KEEPS_LIST, $path);

        return match (true) {
            $asked->refusal !== null => new PreviewLine($path, Deed::Skipped, $asked->refusal, $isFolder, 0, $seen?->status),
            $asked->areGiven() => new PreviewLine($path, Deed::Kept, 'its permissions are the same already', $isFolder, 0, $seen?->status),
            default => new PreviewLine($path, Deed::Permitted, implode('; ', $asked->changes()), $isFolder, 0, $seen?->status),
        };
    }

    private function conflict(Seen $seen, Status $present, Version $version, int $bytes): PreviewLine
    {
        $path = $seen->path;
        $isFolder = $version->kind === EntryKind::Folder;
        $newer = intdiv($present->mtime, 1_000_000_000) > intdiv($version->mtime, 1_000_000_000);
        $differs = $this->difference($seen, $present, $version);
        $rule = $this->order->ruleAt($path);
        if ($rule === ConflictRule::MissingOnly) {
            $this->skippedForPresent++;
            $isFolder && ($this->skipped[$path] = 'its folder is left out, since something else stands there');

            return new PreviewLine(
                $path,
                Deed::Skipped,
                'something stands there already; '.($differs ?? 'it is the same'),
                $isFolder,
                0,
                $present,
                $newer,
            );
        }
        if ($rule === ConflictRule::Replace && $differs === null) {
            return new PreviewLine($path, Deed::Kept, 'it is the same already', $isFolder, 0, $present);
        }
        if ($rule->replaces()) {
            $this->replacedBytes += $present->type === Status::FILE ? $present->size : 0;
        }
        $deed = match ($rule) {
            ConflictRule::Beside => Deed::PutBeside,
            ConflictRule::RenamePresent => Deed::PresentRenamed,
            default => Deed::Replaced,
        };

        return new PreviewLine(
            $path,
            $deed,
            $differs ?? 'it is the same',
            $isFolder,
            $bytes,
            $present,
            $newer,
            $deed === Deed::PutBeside ? null : $this->target->openForWriting($path),
        );
    }

    /** In what the present one is another; null if it is the same in kind, content, mode and time. */
    private function difference(Seen $seen, Status $present, Version $version): ?string
    {
        if ($present->type !== Status::typeOf($version->kind)) {
            return 'a '.$present->typeInWords().' stands there';
        }
        if ($version->linkTarget !== '') {
            return $seen->link === $version->linkTarget ? null : 'the link there leads elsewhere';
        }
        if ($present->type === Status::FILE && $present->size !== $version->size) {
            return 'another size';
        }
        if (isset($this->read[$seen->path]) && $seen->digest !== $version->digest) {
            return 'the same size, another content';
        }
        if (intdiv($present->mtime, $this->target->timeStep()) !== intdiv($version->mtime, $this->target->timeStep())) {
            return 'the same content, another time';
        }

        if ($present->mode !== $this->order->modeOf($version)) {
            return self::ANOTHER_MODE;
        }

        $isSameList = $seen->access === null || PosixAcl::areSame($seen->access, $version->access);

        return $isSameList ? null : self::ANOTHER_LIST;
    }

    private function checkName(string $path, string $name): void
    {
        $whole = strlen($this->order->target) + 1 + strlen($this->order->staging()) + 1 + strlen($path);
        if (strlen($name) > self::LONGEST_NAME || $whole >= self::LONGEST_PATH) {
            // Below an open folder a path may be longer than any single call takes; a person or program may not reach it.
            $this->warn('is too long to be named in one piece there', $path);
        }
        if (! $this->ignoresCase) {
            return;
        }
        $lower = mb_strtolower(mb_scrub($path));
        if (isset($this->lower[$lower])) {
            $this->warn('differs from another name only in capitals, which the target does not tell apart', $path);
        }
        $this->lower[$lower] = $path;
    }

    private function warn(string $what, string $path): void
    {
        if (count($this->warnings) < 100) {
            $this->warnings[] = '"'.Shown::name($path)."\" $what.";
        }
    }

    /** Whether a name that is there is found in other capitals too. */
    private function targetIgnoresCase(): bool
    {
        foreach (array_slice($this->target->names(''), 0, 50) as $name) {
            $other = strtolower($name) === $name ? strtoupper($name) : strtolower($name);
            if ($other !== $name) {
                $one = $this->target->status($name);
                $two = $this->target->status($other);

                return $one !== null && $two !== null && $one->inode === $two->inode && $one->links === 1;
            }
        }

        return false;
    }
}
