<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

use Kaiseki\Core\Volume\VolumePiece;

/** Where a stretch of a volume lay: on one part of its group, or by turns on some. */
final readonly class RecordedPiece
{
    private const MOST = 128;

    /**
     * @param  int  $width  bytes of a stripe; of one that has none all of its bytes
     * @param  non-empty-list<array{string, int}>  $stripes  on which partition ("system.3"), and from which byte of it
     */
    public function __construct(public int $bytes, public int $width, public array $stripes)
    {
    }

    /** @param  array<array-key, string>  $keys  id of a physical volume, without dashes => its partition */
    public static function of(VolumePiece $piece, array $keys): self
    {
        return new self($piece->bytes, $piece->width, array_map(fn (array $one): array => [$keys[$one[0]], $one[1]], $piece->stripes));
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['stripes' => array_map(fn (array $one): array => ['on' => $one[0], 'from' => $one[1]], $this->stripes)] +
            get_object_vars($this);
    }

    /** @throws UnfitLayout */
    public static function said(Said $said): self
    {
        $bytes = $said->number('bytes', 1, RecordedDisk::LARGEST);
        $width = $said->number('width', 512, RecordedDisk::LARGEST);
        $stripes = array_map(fn (Said $one): array => [
            $one->text('on', RecordedDisk::PART), $one->number('from', 0, RecordedDisk::LARGEST),
        ], $said->each('stripes', self::MOST));
        if ($stripes === [] || $bytes % ($width * count($stripes)) !== 0) {
            throw UnfitLayout::at('stripes', 'must be at least one, and whole.');
        }

        return new self($bytes, $width, $stripes);
    }
}
