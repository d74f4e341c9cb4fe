<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** How the disks of a machine were laid out: a document that can be kept, edited by hand, and read again. */
final readonly class LayoutRecord
{
    private const FORMAT = 'kaiseki.layout';

    private const MOST_DISKS = 64;

    private const LARGEST_DOCUMENT = 4 << 20;

    /**
     * @param  list<RecordedDisk>  $disks  in their order
     * @param  string  $firmware  bios, uefi, or '' where it is not known
     */
    public function __construct(public array $disks, public string $firmware = '')
    {
    }

    /**
     * With those first from which something could start, as firmware does.
     *
     * @param  list<RecordedDisk>  $disks
     */
    public static function startingFirst(array $disks, string $firmware = ''): self
    {
        usort($disks, fn (RecordedDisk $a, RecordedDisk $b): int => $b->mayStart() <=> $a->mayStart());

        return new self($disks, $firmware);
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

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'format' => self::FORMAT,
            'version' => 1,
            'firmware' => $this->firmware,
            'disks' => array_map(fn (RecordedDisk $disk): array => $disk->toArray(), $this->disks),
        ];
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

        return new self($disks, $said->text('firmware', '/^(bios|uefi|)$/D', ''));
    }
}
