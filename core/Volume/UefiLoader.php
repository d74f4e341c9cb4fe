<?php

declare(strict_types=1);

namespace Kaiseki\Core\Volume;

use Kaiseki\Core\Archive\EntryKind;
use Kaiseki\Core\Machine\UnreadableImage;

/** What a firmware by UEFI starts of which nobody has told it anything (UEFI specification, 3.5.1.1: removable media). */
final class UefiLoader
{
    private const PARTS = ['EFI', 'BOOT', 'BOOTX64.EFI'];

    public static function path(): string
    {
        return '/'.implode('/', self::PARTS);
    }

    /** Whether it lies there; FAT knows no case. */
    public static function isOn(FileSystem $files): bool
    {
        try {
            $at = $files->root();
            foreach (self::PARTS as $part) {
                $found = null;
                foreach ($at->version->kind === EntryKind::Folder ? $files->children($at) : [] as $name => $child) {
                    $found = strcasecmp((string) $name, $part) === 0 ? $child : $found;
                }
                if ($found === null) {
                    return false;
                }
                $at = $found;
            }

            return true;
        } catch (UnreadableVolume|UnreadableImage) {
            return false;
        }
    }
}
