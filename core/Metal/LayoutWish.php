<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** What somebody said of how disks are laid out; what was not said is proposed. */
final readonly class LayoutWish
{
    private const LARGEST = 4 << 20;

    private const MOST_DISKS = 64;

    private const MOST_PARTITIONS = 256;

    /**
     * @param  array<string, string>  $onto  disk as it was called => disk of the machine
     * @param  list<string>  $without  disks that are not brought: what stands there stays as it is
     * @param  array<string, int>  $sizes  "DISK.PARTITION" or "GROUP-VOLUME" => bytes
     */
    public function __construct(public array $onto = [], public array $without = [], public array $sizes = [])
    {
    }

    /**
     * As a proposal was written down and edited: which disk comes onto which, what is left alone, and how large each file system is that
     * is made anew. What else stands there is not looked at.
     *
     * @throws UnfitLayout if it is no such document
     */
    public static function ofJson(string $json): self
    {
        $said = Said::ofJson($json, self::LARGEST);
        $onto = $sizes = [];
        foreach ($said->each('disks', self::MOST_DISKS) as $disk) {
            $name = $disk->text('disk', RecordedDisk::NAME);
            $onto[$name] = $disk->text('onto', RecordedDisk::NAME);
            foreach ($disk->each('partitions', self::MOST_PARTITIONS) as $one) {
                $number = $one->number('number', 0, 1024);
                $isMade = ContentKind::tryFrom($one->text('content', '/^[a-z]{1,20}$/D'))?->mayResize();
                if ($isMade && $number > 0) { // without a table it has all of its disk
                    $sizes["$name.$number"] = $one->number('bytes', 1, RecordedDisk::LARGEST);
                }
            }
        }

        foreach ($said->each('groups', self::MOST_DISKS) as $group) {
            $name = $group->text('group', RecordedGroup::NAME);
            foreach ($group->each('volumes', self::MOST_PARTITIONS) as $one) {
                if (ContentKind::tryFrom($one->text('content', '/^[a-z]{1,20}$/D'))?->isFilled()) {
                    $sizes["$name-".$one->text('name', RecordedGroup::NAME)] = $one->number('bytes', 1, RecordedDisk::LARGEST);
                }
            }
        }

        $without = $said->keys('left_alone', RecordedDisk::NAME, self::MOST_DISKS);

        return $onto === [] && $without === []
            ? throw UnfitLayout::at('disks', 'must name at least one.')
            : new self($onto, $without, $sizes);
    }
}
