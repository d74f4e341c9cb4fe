<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Disks;

use Kaiseki\Core\Archive\RawBytes;
use Kaiseki\Core\Machine\Layer;
use Kaiseki\Core\Machine\Qcow2Image;
use Kaiseki\Core\Machine\RawImage;
use Kaiseki\Core\Machine\VhdImage;
use Kaiseki\Core\Machine\VhdxImage;
use Kaiseki\Core\Machine\VmdkImage;

/** Images by their format: what the name of the file said when it was taken in, never what the bytes look like. */
final class ImageOf
{
    /** Ending of a file => format. */
    public const FORMATS = [
        'qcow2' => 'qcow2', 'raw' => 'raw', 'img' => 'raw', 'vhd' => 'vpc', 'vpc' => 'vpc', 'vhdx' => 'vhdx', 'vmdk' => 'vmdk',
    ];

    /** Whether an image of a format can rest on another: all others are whole. */
    public static function canRestOnAnother(string $format): bool
    {
        return $format === 'qcow2';
    }

    /** @throws \Kaiseki\Core\Machine\UnreadableImage */
    public static function format(string $format, RawBytes $bytes): Layer
    {
        return match ($format) {
            'qcow2' => Qcow2Image::open($bytes),
            'vpc' => VhdImage::open($bytes),
            'vhdx' => VhdxImage::open($bytes),
            'vmdk' => VmdkImage::open($bytes),
            default => new RawImage($bytes),
        };
    }
}
