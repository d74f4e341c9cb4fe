<?php

declare(strict_types=1);

namespace App\View;

/** A picture from outside, decoded and drawn anew: whatever else was in its bytes is not in what leaves. */
final class DrawnPicture
{
    /** Four bytes each while it is drawn. */
    private const MOST_PIXELS = 16_000_000;

    private const SHOWN_PIXELS = 1200;

    /** @return string|null PNG, no side longer than is shown; null if it is no picture that can be */
    public static function png(string $bytes): ?string
    {
        $about = @getimagesizefromstring($bytes);
        if ($about === false || $about[0] < 1 || $about[1] < 1 || $about[0] * $about[1] > self::MOST_PIXELS) {
            return null;
        }
        $picture = @imagecreatefromstring($bytes);
        if ($picture === false) {
            return null;
        }
        if (max($about[0], $about[1]) > self::SHOWN_PIXELS) {
            $scale = self::SHOWN_PIXELS / max($about[0], $about[1]);
            $picture = imagescale($picture, max(1, (int) ($about[0] * $scale)), max(1, (int) ($about[1] * $scale))) ?: $picture;
        }
        imagesavealpha($picture, true);
        ob_start();
        imagepng($picture, null, 3);

        return (string) ob_get_clean();
    }
}
