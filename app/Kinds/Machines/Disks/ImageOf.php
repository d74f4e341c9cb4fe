<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Disks;

use Kaiseki\Core\Archive\RawBytes;
use Kaiseki\Core\Machine\Layer;
use Kaiseki\Core\Machine\Qcow2Image;
use Kaiseki\Core\Machine\RawImage;

/** Images by their format: what the name of the file said when it was taken in, never what the bytes look like. */
final class ImageOf
{
    /** Ending of a file => format. */
    public const FORMATS = ['qcow2' => 'qcow2', 'raw' => 'raw', 'img' => 'raw'];

    /** @throws \Kaiseki\Core\Machine\UnreadableImage */
    public static function format(string $format, RawBytes $bytes): Layer
    {
        return $format === 'qcow2' ? Qcow2Image::open($bytes) : new RawImage($bytes);
    }
}
