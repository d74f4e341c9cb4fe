<?php

declare(strict_types=1);

namespace App\Trees\Catalog;

use App\Instance;
use Kaiseki\Core\Content\Form;
use Kaiseki\Core\Content\OfficeText;
use Kaiseki\Core\Content\PlainText;

/** The text of a content, whatever it is. */
final class ContentText
{
    private const HEAD = 8_192;

    /**
     * @param  resource  $stream  the content, standing at its beginning
     * @param  string  $name  of a file with it
     * @param  int  $most  bytes of text
     * @return string|null null where there is none in it
     */
    public static function of($stream, string $name, int $most): ?string
    {
        $bytes = (string) stream_get_contents($stream, $most);

        return match (Form::of(substr($bytes, 0, self::HEAD), $name)) {
            Form::Text, Form::Table => mb_strcut(PlainText::of($bytes), 0, $most),
            Form::Office => self::office($stream, $most),
            default => null,
        };
    }

    /** @param  resource  $stream */
    private static function office($stream, int $most): ?string
    {
        $file = tempnam(Instance::folder('tmp'), 'office-');
        if ($file === false) {
            return null;
        }
        try {
            rewind($stream);
            $copy = fopen($file, 'wb');
            if ($copy === false) {
                return null;
            }
            stream_copy_to_stream($stream, $copy);
            fclose($copy);

            return OfficeText::of($file, $most);
        } finally {
            @unlink($file);
        }
    }
}
