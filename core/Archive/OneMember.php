<?php

declare(strict_types=1);

namespace Kaiseki\Core\Archive;

use Kaiseki\Core\Archive\Internal\PaxRecords;

/** The head of a tar member that holds one file, for contents that are read as if they lay in an archive. */
final class OneMember
{
    private const BLOCK = 512;

    /** @param  array<string, string>  $extended  see TarEntry::$extended */
    public static function head(int $size, array $extended = []): string
    {
        $records = ($size > 077777777777 ? ['size' => (string) $size] : []) + $extended;
        $lead = '';
        if ($records !== []) {
            $bytes = PaxRecords::encode($records);
            $lead =
                self::header('x', strlen($bytes)).
                str_pad($bytes, intdiv(strlen($bytes) + self::BLOCK - 1, self::BLOCK) * self::BLOCK, "\0");
        }

        return $lead.self::header('0', $size > 077777777777 ? 0 : $size);
    }

    private static function header(string $type, int $size): string
    {
        $head = pack(
            'a100a8a8a8a12a12a8a1a100a6a2a32a32a8a8a155x12',
            'content',
            '0000600',
            '0000000',
            '0000000',
            sprintf('%011o', $size),
            '00000000000',
            '        ',
            $type,
            '',
            "ustar\0",
            '00',
            '',
            '',
            '',
            '',
            '',
        );

        return substr_replace($head, sprintf("%06o\0 ", array_sum(unpack('C*', $head) ?: [])), 148, 8);
    }
}
