<?php

declare(strict_types=1);

namespace Kaiseki\Core\Metal;

/** What lies on a partition, as far as it must be known to bring it onto another disk. */
final readonly class Content
{
    private const UUID = '/^([0-9a-f]{8}(-[0-9a-f]{4}){3}-[0-9a-f]{12})?$/D';

    /** As LVM writes its own: lvm(8). */
    public const LVM_ID = '/^[A-Za-z0-9]{6}(-[A-Za-z0-9]{4}){5}-[A-Za-z0-9]{6}$/D';

    private const FEATURE = '/^[a-z0-9_]{1,40}$/D';

    /**
     * @param  string  $type  for people: "ext4", "FAT16", "swap"; '' where it is not known
     * @param  string  $uuid  in lower case; '' for none; of a part of a volume group as LVM writes it
     * @param  string  $label  bytes, sixteen at most; of a part of a volume group the group's name
     * @param  int  $used  bytes that are in use; of what is brought byte by byte all of them
     * @param  int  $block  bytes of a block of what is filled with files
     * @param  int  $inode  bytes of an inode of it
     * @param  int  $inodes  that are in use
     * @param  list<string>  $features  of ext as mke2fs(8) names them, of XFS as mkfs.xfs(8) does
     */
    public function __construct(
        public ContentKind $kind,
        public string $type = '',
        public string $uuid = '',
        public string $label = '',
        public int $used = 0,
        public int $block = 0,
        public int $inode = 0,
        public int $inodes = 0,
        public array $features = [],
    ) {
    }

    /** @param  int  $sector  bytes: what counts in smaller ones than its disk has cannot be brought */
    public function canLieOn(int $sector): bool
    {
        return match (true) {
            $sector <= 512 => true,
            $this->kind->isFilled() => $this->block >= $sector,
            default => $this->kind !== ContentKind::Image,
        };
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return ['kind' => $this->kind->value, 'type' => $this->type, 'uuid' => $this->uuid, 'label' => rawurlencode($this->label),
            'used' => $this->used] + (! $this->kind->isFilled() ? [] : [
                'block' => $this->block, 'inode' => $this->inode, 'inodes' => $this->inodes, 'features' => $this->features,
            ]);
    }

    /** @throws UnfitLayout */
    public static function said(Said $said): self
    {
        $kind = ContentKind::from($said->text('kind', '/^('.implode('|', array_column(ContentKind::cases(), 'value')).')$/D'));
        $isFilled = $kind->isFilled();
        $label = rawurldecode($said->text('label', '/^([A-Za-z0-9_.~-]|%[0-9A-F]{2})*$/D', ''));
        $block = $said->number('block', $isFilled ? 512 : 0, 65_536, 0);
        $inode = $said->number('inode', $isFilled ? 128 : 0, 65_536, 0);
        foreach (['block' => $block, 'inode' => $inode] as $what => $bytes) {
            ! $isFilled || ($bytes & ($bytes - 1)) === 0 || throw UnfitLayout::at($what, 'must be a power of two.');
        }

        return new self(
            $kind,
            $said->text('type', '/^[A-Za-z0-9 +._-]{0,40}$/D', ''),
            $said->text('uuid', match ($kind) {
                ContentKind::Image => '/^[0-9A-Fa-f-]{0,40}$/D',
                ContentKind::Group => self::LVM_ID,
                default => self::UUID,
            }, ''),
            strlen($label) <= ($kind === ContentKind::Group ? 127 : 36) ? $label : throw UnfitLayout::at('label', 'is too long.'),
            $said->number('used', 0, RecordedDisk::LARGEST, 0),
            $block,
            $inode,
            $said->number('inodes', 0, 1 << 32, 0),
            $said->texts('features', self::FEATURE, 64),
        );
    }
}
