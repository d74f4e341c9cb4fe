<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

use Closure;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\UnsafePath;
use Kaiseki\Core\Files\OctalEscapes;
use Kaiseki\Core\Machine\Disk;
use Kaiseki\Core\Volume\GroupVolume;
use Kaiseki\Core\Volume\PartitionTable;

/**
 * What an agent wrote down of its machine, as files that are part of each set (resources/agent/agent.sh): a list, the first bytes of each
 * disk and volume, and images of what cannot be filled with files. From it a blank machine is laid out.
 */
final readonly class MachineRecord
{
    /** Where it lies among the files of the machine. */
    public const FOLDER = 'var/lib/kaiseki-agent/machine';

    public const LIST = 'machine';

    /** Of all that has attributes, as getfattr(1) writes it. */
    public const ATTRIBUTES = 'attributes';

    private const HEAD = 'kaiseki-machine 1';

    private const MOST_LINES = 2000;

    private const MOST_CARDS = 64;

    private const KEY = '/^(?!\.{1,2}$)[A-Za-z0-9+_.][A-Za-z0-9+_.-]{0,254}$/D';

    /**
     * @param  array<string, VolumeUse>  $files  volume => where its files are; "sda.2", "sdb" of a disk without a table, "harbour-root"
     * @param  list<string>  $images  volumes of which there is an image
     * @param  array<string, string>  $left  volumes of which nothing is there => why
     * @param  list<string>  $cautions  what cannot be brought back, in sentences
     * @param  list<string>  $leftOut  what its rules leave out, as they name it
     * @param  list<string>  $imagesAt  where volumes were mounted of which there is an image: paths from the top
     * @param  list<RecordedCard>  $cards  its network cards, in their order
     */
    private function __construct(
        public LayoutRecord $layout,
        public array $files,
        public array $images,
        public array $left,
        public array $cautions,
        public string $kernel,
        public array $leftOut = [],
        public array $imagesAt = [],
        public array $cards = [],
    ) {
    }

    /**
     * @param  Closure(string): ?string  $file  a file of the record by its name; null if it is not there
     *
     * @throws UnfitLayout
     */
    public static function read(Closure $file): self
    {
        $lines = explode("\n", (string) $file(self::LIST));
        if ($lines[0] !== self::HEAD || count($lines) > self::MOST_LINES) {
            throw UnfitLayout::at('The record of the machine', 'is none that is known here.');
        }
        $said = array_fill_keys(['left-out', 'disk', 'volume', 'unsupported', 'table', 'firmware', 'kernel', 'card'], []);
        foreach (array_slice($lines, 1) as $line) {
            $words = explode(' ', $line);
            $what = (string) array_shift($words);
            isset($said[$what]) && $said[$what][] = $words;
        }
        [$files, $images, $left, $imagesAt] = self::volumes($said['volume']);
        $disks = array_map(fn (array $words): array => self::disk($words, $said['table'], $file, $files), $said['disk']);
        $firmware = $said['firmware'][0][0] ?? '';
        $layout = self::asItComes(
            GroupReading::with(
                $disks,
                fn (string $group, GroupVolume $one): Content => self::volume("$group-{$one->name}", $one->bytes, $file, $files),
                in_array($firmware, ['bios', 'uefi'], true) ? $firmware : '',
            ),
            $files,
            $images,
            $left,
        );

        return new self(
            LayoutRecord::ofJson((string) json_encode($layout->toArray())), // with all that is asked of one
            $files,
            $images,
            $left,
            [
                ...array_map(self::unsupported(...), $said['unsupported']),
                ...array_map(self::leftOut(...), $said['left-out']),
                ...array_map(fn (string $key, string $why): string => "$key comes empty: nothing of it is in the set, for $why.",
                    array_map(strval(...), array_keys($left)), $left),
            ],
            $said['kernel'][0][0] ?? '',
            array_map(fn (array $words): string => self::shown($words[0] ?? ''), $said['left-out']),
            $imagesAt,
            self::cards($said['card']),
        );
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'layout' => $this->layout->toArray(),
            'files' => array_map(get_object_vars(...), $this->files),
            'cards' => array_map(get_object_vars(...), $this->cards),
        ] + get_object_vars($this);
    }

    /**
     * As toArray() gave it.
     *
     * @param  array<string, mixed>  $kept
     *
     * @throws UnfitLayout
     */
    public static function kept(array $kept): self
    {
        return new self(...[
            'layout' => LayoutRecord::ofJson((string) json_encode($kept['layout'])),
            'files' => array_map(fn (array $use): VolumeUse => new VolumeUse(...$use), $kept['files']),
            'cards' => self::cards(array_map(array_values(...), $kept['cards'] ?? [])),
        ] + $kept);
    }

    /**
     * @param  list<list<string>>  $said
     * @return array{array<string, VolumeUse>, list<string>, array<string, string>, list<string>}
     */
    private static function volumes(array $said): array
    {
        $files = $images = $left = $imagesAt = [];
        foreach ($said as $words) {
            $key = $words[0] ?? '';
            preg_match(self::KEY, $key) === 1 || throw UnfitLayout::at('A volume', 'has a name that none has.');
            match ($words[1] ?? '') {
                'files' => $files[$key] = self::use($key, $words[2] ?? '', $words[3] ?? ''),
                'image' => [$images[] = $key, ($words[2] ?? '') === '' || $imagesAt[] = self::path($key, $words[2])],
                'left' => $left[$key] = self::shown($words[2] ?? ''),
                'swap', 'group' => null,
                default => throw UnfitLayout::at($key, 'is said to come in a way that none does.'),
            };
        }

        return [$files, $images, $left, $imagesAt];
    }

    /**
     * @param  list<list<string>>  $said  name and address of each
     * @return list<RecordedCard>
     */
    private static function cards(array $said): array
    {
        $card = fn (array $words): ?RecordedCard => RecordedCard::of($words[0] ?? '', $words[1] ?? '');

        return array_values(array_filter(array_map($card, array_slice($said, 0, self::MOST_CARDS))));
    }

    /** @param  string  $at  where it was mounted, as the kernel writes it */
    private static function path(string $key, string $at): string
    {
        try {
            return EntryPath::of(OctalEscapes::undone($at));
        } catch (UnsafePath $unsafe) {
            throw UnfitLayout::at($key, $unsafe->getMessage());
        }
    }

    /** @param  string  $counted  as stat(1) -f does: '%S,%b,%f,%c,%d' */
    private static function use(string $key, string $counted, string $at): VolumeUse
    {
        if (preg_match('/^(\d{1,9}),(\d{1,15}),(\d{1,15}),(\d{1,15}),(\d{1,15})$/D', $counted, $m) !== 1) {
            throw UnfitLayout::at($key, 'does not say how much of it is in use.');
        }
        [, $block, $blocks, $free, $inodes, $freeInodes] = array_map(intval(...), $m);
        $bytes = max(0, $blocks - $free) * $block;

        return new VolumeUse(
            self::path($key, $at),
            is_int($bytes) ? min($bytes, RecordedDisk::LARGEST) : RecordedDisk::LARGEST,
            max(0, $inodes - $freeInodes),
        );
    }

    /**
     * @param  list<string>  $words  its name, bytes, bytes of a sector, serial number
     * @param  list<list<string>>  $tables  disks and sectors of which there is a table within
     * @param  Closure(string): ?string  $file
     * @param  array<string, VolumeUse>  $files
     * @return array{Disk, RecordedDisk}
     */
    private static function disk(array $words, array $tables, Closure $file, array $files): array
    {
        [$name, $bytes] = [$words[0] ?? '', (int) ($words[1] ?? 0)];
        if (preg_match(RecordedDisk::NAME, $name) !== 1 || $bytes < 1 || $bytes > RecordedDisk::LARGEST) {
            throw UnfitLayout::at('A disk', 'has a name or a size that none has.');
        }
        $end = (string) $file("$name.end");
        $disk = new PieceDisk($bytes, [0 => (string) $file("$name.begin"), max(0, $bytes - strlen($end)) => $end]);
        foreach ($tables as [$of, $sector]) {
            $isHere = $of === $name && ctype_digit($sector) && strlen($sector) < 16;
            $disk = $isHere ? $disk->with(512 * (int) $sector, (string) $file("$name.table.$sector")) : $disk;
        }
        $uses = [];
        foreach (PartitionTable::of($disk) as $one) {
            $key = self::key($name, $one->number);
            $disk = $disk->with($one->from, (string) $file("$key.head"));
            $uses += isset($files[$key]) ? [$one->number => $files[$key]] : [];
        }

        return [$disk, LayoutReading::ofDisk($name, $disk, $uses)];
    }

    /**
     * What lies on a volume of a group.
     *
     * @param  Closure(string): ?string  $file
     * @param  array<string, VolumeUse>  $files
     */
    private static function volume(string $key, int $bytes, Closure $file, array $files): Content
    {
        return LayoutReading::content(new PieceDisk($bytes, [0 => (string) $file("$key.head")]), $files[$key] ?? null);
    }

    /**
     * With what nothing is there of as blank.
     *
     * @param  array<string, VolumeUse>  $files
     * @param  list<string>  $images
     * @param  array<string, string>  $left  gets those that nobody said so of
     */
    private static function asItComes(LayoutRecord $layout, array $files, array $images, array &$left): LayoutRecord
    {
        $as = function (string $key, Content $content) use ($files, $images, &$left): Content {
            $comes = match ($content->kind) {
                ContentKind::Ext, ContentKind::Xfs => isset($files[$key]),
                ContentKind::Image => in_array($key, $images, true),
                default => true,
            };
            if (! $comes) {
                $left[$key] ??= 'nobody wrote down how it could be made anew';
            }

            return isset($left[$key]) ? new Content(ContentKind::Blank, $content->type) : $content;
        };
        $disks = $groups = [];
        foreach ($layout->disks as $disk) {
            foreach ($disk->partitions as $one) {
                $disk = $disk->with($disk->key($one), $as($disk->key($one), $one->content));
            }
            $disks[] = $disk;
        }
        foreach ($layout->groups as $group) {
            $groups[] = $group->with(array_map(
                fn (RecordedVolume $one): RecordedVolume => $one->with($as($group->key($one), $one->content)),
                $group->volumes,
            ));
        }

        return new LayoutRecord($disks, $layout->firmware, $groups);
    }

    public static function key(string $disk, int $partition): string
    {
        return $partition === 0 ? $disk : "$disk.$partition";
    }

    /** The first mebibyte of a disk, as a name of a file of the record. */
    public static function begin(string $disk): string
    {
        return "$disk.begin";
    }

    public static function image(string $volume): string
    {
        return "$volume.img.gz";
    }

    /** The first stretch of a disk, for what must stand there before and behind its table. */
    public static function beginning(int $bytes, string $begin): Disk
    {
        return new PieceDisk($bytes, [0 => $begin]);
    }

    /** Words of a list, where a line stands for what is no space. */
    private static function shown(string $words): string
    {
        return mb_strcut(mb_scrub(strtr($words, '_', ' ')), 0, 200);
    }

    /** @param  list<string>  $words */
    private static function unsupported(array $words): string
    {
        [$name, $what] = array_map(self::shown(...), [...$words, '', '']);

        return "$name, which is $what, is not made anew: what lay on it comes only as files, if at all.";
    }

    /** @param  list<string>  $words */
    private static function leftOut(array $words): string
    {
        [$pattern, $why] = array_map(self::shown(...), [...$words, '', '']);

        return "Nothing of $pattern comes: the rules there leave it out".($why === '' ? '.' : " ($why).");
    }

    /** @return list<string> where others are mounted within a volume: what lies there is no part of it */
    public function within(string $volume): array
    {
        $at = $this->files[$volume]->at;
        $all = [...array_map(fn (VolumeUse $use): string => $use->at, array_values($this->files)), ...$this->imagesAt];

        return array_values(array_filter($all, fn (string $one): bool => $one !== $at && EntryPath::isWithin($one, $at)));
    }
}
