<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** A volume of a group as it was, with what lies on it. */
final readonly class RecordedVolume
{
    private const MOST = 1000;

    /**
     * @param  string  $id  as LVM writes it, with dashes
     * @param  list<RecordedPiece>  $pieces  where it lay, one behind the other; none where it was not made of plain ones
     */
    public function __construct(
        public string $name,
        public string $id,
        public int $bytes,
        public Content $content,
        public array $pieces = [],
    ) {
    }

    public function with(Content $content): self
    {
        return new self(...['content' => $content] + get_object_vars($this));
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'content' => $this->content->toArray(),
            'pieces' => array_map(fn (RecordedPiece $one): array => $one->toArray(), $this->pieces),
        ] + get_object_vars($this);
    }

    /**
     * @param  int  $extent  bytes
     *
     * @throws UnfitLayout
     */
    public static function said(Said $said, int $extent): self
    {
        $name = $said->text('name', RecordedGroup::NAME);
        $bytes = $said->number('bytes', 1, RecordedDisk::LARGEST);
        $pieces = array_map(RecordedPiece::said(...), $said->each('pieces', self::MOST));
        $sum = array_sum(array_map(fn (RecordedPiece $one): int => $one->bytes, $pieces));
        if ($bytes % $extent !== 0 || ($pieces !== [] && $sum !== $bytes)) {
            throw UnfitLayout::at("The volume $name", 'has a size that is not that of its pieces.');
        }

        return new self($name, $said->text('id', Content::LVM_ID), $bytes, Content::said($said->within('content')), $pieces);
    }
}
