<?php

declare(strict_types=1);

namespace App\Kinds;

/** A file that was not taken in, and why. */
final readonly class RefusedFile
{
    public function __construct(public string $file, public string $because)
    {
    }

    /**
     * @param  list<self>  $some
     * @return list<array{file: string, because: string}> as documents have them, in UTF-8
     */
    public static function kept(array $some): array
    {
        return array_map(
            fn (self $one): array => ['file' => mb_scrub($one->file), 'because' => mb_scrub($one->because)],
            $some,
        );
    }
}
