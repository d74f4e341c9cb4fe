<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** A partition of a disk as it was, with what lies on it; number 0 for a disk without a table. */
final readonly class RecordedPartition
{
    /** Types of a partition from which UEFI starts: UEFI specification, table 5-7 and 5.2.2. */
    public const EFI_SYSTEM = ['C12A7328-F81F-11D2-BA4B-00A0C93EC93B', 'ef'];

    public const GUID = '/^[0-9A-F]{8}(-[0-9A-F]{4}){3}-[0-9A-F]{12}$/D';

    /**
     * @param  int  $start  bytes from the beginning of its disk
     * @param  string  $type  as sfdisk(8) writes it: a GUID in capitals, or a number in hexadecimal
     * @param  string  $uuid  its own GUID, in capitals; '' in a table that gives none
     * @param  string  $name  as a GUID partition table has it
     * @param  int  $flags  the bits of its entry there; in another table 128 for "active"
     */
    public function __construct(
        public int $number,
        public int $start,
        public int $bytes,
        public string $type,
        public string $uuid,
        public string $name,
        public int $flags,
        public Content $content,
    ) {
    }

    public function end(): int
    {
        return $this->start + $this->bytes;
    }

    public function with(Content $content): self
    {
        return new self(...['content' => $content] + get_object_vars($this));
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['content' => $this->content->toArray()] + get_object_vars($this);
    }

    /**
     * @param  string  $table  gpt, dos, or '' for none
     *
     * @throws UnfitLayout
     */
    public static function said(Said $said, string $table): self
    {
        $isGuid = $table === 'gpt';

        return new self(
            $said->number('number', $table === '' ? 0 : 1, $table === '' ? 0 : 1024),
            $said->number('start', 0, RecordedDisk::LARGEST),
            $said->number('bytes', 1, RecordedDisk::LARGEST),
            $said->text('type', $isGuid ? self::GUID : '/^[0-9a-f]{0,2}$/D', ''),
            $said->text('uuid', $isGuid ? self::GUID : '/^$/D', ''),
            $said->text('name', '/^[^\x00-\x1f\x7f]{0,36}$/Du', ''),
            $said->number('flags', PHP_INT_MIN, PHP_INT_MAX, 0),
            Content::said($said->within('content')),
        );
    }
}
