<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** How the disks of a machine were laid out: a document that can be kept, edited by hand, and read again. */
final readonly class LayoutRecord
{
    private const FORMAT = 'kaiseki.layout';

    private const MOST_DISKS = 64;

    private const MOST_GROUPS = 64;

    private const LARGEST_DOCUMENT = 4 << 20;

    /**
     * @param  list<RecordedDisk>  $disks  in their order
     * @param  string  $firmware  bios, uefi, or '' where it is not known
     * @param  list<RecordedGroup>  $groups  that are made anew: each part of one is a partition with that as its content
     */
    public function __construct(public array $disks, public string $firmware = '', public array $groups = [])
    {
    }

    /**
     * With those first from which something could start, as firmware does.
     *
     * @param  list<RecordedDisk>  $disks
     * @param  list<RecordedGroup>  $groups
     */
    public static function startingFirst(array $disks, string $firmware = '', array $groups = []): self
    {
        usort($disks, fn (RecordedDisk $a, RecordedDisk $b): int => $b->mayStart() <=> $a->mayStart());

        return new self($disks, $firmware, $groups);
    }

    public function disk(string $name): ?RecordedDisk
    {
        foreach ($this->disks as $disk) {
            if ($disk->name === $name) {
                return $disk;
            }
        }

        return null;
    }

    /**
     * @param  string  $key  a partition, a disk without a table, or a volume of a group
     * @return list<string> on which disks it lies
     */
    public function disksOf(string $key): array
    {
        $keys = [$key];
        foreach ($this->groups as $group) {
            $keys = in_array($key, array_map($group->key(...), $group->volumes), true) ? $group->parts : $keys;
        }

        $isOn = fn (RecordedDisk $disk): bool => array_intersect(array_map($disk->key(...), $disk->partitions), $keys) !== [];

        return array_map(fn (RecordedDisk $disk): string => $disk->name, array_values(array_filter($this->disks, $isOn)));
    }

    /** Whether what has changed since is no more than what lies in its file systems. */
    public function isLaidOutLike(self $other): bool
    {
        $fixed = function (array $of) use (&$fixed): array {
            $kept = array_diff_key($of, ['used' => 0, 'inodes' => 0, 'features' => 0]);

            return array_map(fn (mixed $one): mixed => is_array($one) ? $fixed($one) : $one, $kept);
        };

        return $fixed($this->toArray()) === $fixed($other->toArray());
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'format' => self::FORMAT,
            'version' => 1,
            'firmware' => $this->firmware,
            'disks' => array_map(fn (RecordedDisk $disk): array => $disk->toArray(), $this->disks),
        ] + ($this->groups === [] ? [] : [
            'groups' => array_map(fn (RecordedGroup $group): array => $group->toArray(), $this->groups),
        ]);
    }

    /** @throws UnfitLayout */
    public static function ofJson(string $json): self
    {
        $said = Said::ofJson($json, self::LARGEST_DOCUMENT);
        $said->text('format', '/^'.preg_quote(self::FORMAT, '/').'$/D');
        $said->number('version', 1, 1);
        $disks = array_map(RecordedDisk::said(...), $said->each('disks', self::MOST_DISKS));
        $names = array_map(fn (RecordedDisk $disk): string => $disk->name, $disks);
        if ($names === [] || array_unique($names) !== $names) {
            throw UnfitLayout::at('disks', 'must have at least one, and no two of one name.');
        }

        $record = new self(
            $disks,
            $said->text('firmware', '/^(bios|uefi|)$/D', ''),
            array_map(RecordedGroup::said(...), $said->each('groups', self::MOST_GROUPS)),
        );
        $record->checkGroups();

        return $record;
    }

    /** @throws UnfitLayout if a part of a group is none, or something has the name of something else */
    private function checkGroups(): void
    {
        $parts = $keys = [];
        foreach ($this->disks as $disk) {
            foreach ($disk->partitions as $one) {
                $keys[] = $disk->key($one);
                $one->content->kind !== ContentKind::Group || $parts[$disk->key($one)] = $one->content;
            }
        }
        foreach ($this->groups as $group) {
            foreach ($group->parts as $part) {
                ($parts[$part]->label ?? null) === $group->name
                    || throw UnfitLayout::at("The group {$group->name}", "does not lie on $part, or another does too.");
                unset($parts[$part]);
            }
            array_push($keys, ...array_map($group->key(...), $group->volumes));
        }
        $parts === [] || throw UnfitLayout::at((string) array_key_first($parts), 'is a part of a group that nothing is said of.');
        array_unique($keys) === $keys || throw UnfitLayout::at('The layout', 'has two volumes of one name.');
    }
}
