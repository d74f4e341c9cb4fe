<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** A disk of a machine that the medium was started on, as the medium tells it. */
final readonly class TargetDisk
{
    /** What a kernel calls disks: sda, nvme0n1, mmcblk0. */
    private const NAME = '/^[a-z]{2,8}[0-9a-z]{1,16}$/D';

    /**
     * @param  string  $serial  '' where it has none
     * @param  int  $sector  bytes of a logical sector
     * @param  bool  $isMedium  whether the medium itself was started from it, or it can be taken out
     * @param  list<string>  $marks  what was found on it: "gpt", "ext4 root"; in words, none where it is blank
     * @param  string  $id  what its table is called by, as RecordedDisk has it; '' for none
     */
    public function __construct(
        public string $name,
        public int $bytes,
        public int $sector,
        public string $serial,
        public string $model,
        public bool $isMedium,
        public array $marks,
        public string $id,
    ) {
    }

    /** @throws UnfitLayout */
    public static function said(Said $said): self
    {
        $sector = $said->number('sector', 512, 65_536);

        return new self(
            $said->text('name', self::NAME),
            $said->number('bytes', 0, RecordedDisk::LARGEST),
            ($sector & ($sector - 1)) === 0 ? $sector : throw UnfitLayout::at('sector', 'must be a power of two.'),
            $said->words('serial', 64),
            $said->words('model', 64),
            $said->flag('medium'),
            $said->texts('marks', '/^[\x20-\x7e]{0,80}$/D', 64),
            $said->text('id', '/^[0-9A-Fa-fx-]{0,36}$/D', ''),
        );
    }

    /** @return array<string, mixed> as said() takes it */
    public function toArray(): array
    {
        return ['medium' => $this->isMedium] + get_object_vars($this);
    }
}
