<?php

declare(strict_types=1);

namespace Kaiseki\Core\Scan;

/** What a scanner said of one file. What it could not look into is never clean. */
final readonly class ScanAnswer
{
    /** Findings of ClamAV that say that it did not look, and why (clamd.conf: AlertExceedsMax, AlertEncrypted). */
    private const NOT_LOOKED = [
        'Heuristics.Limits.Exceeded' => 'it is larger, or packed more deeply, than is looked into',
        'Heuristics.Encrypted' => 'it, or something packed in it, is locked with a password',
    ];

    /**
     * @param  string|null  $found  name of the signature that fits; null if none does
     * @param  string|null  $because  why it was not looked into, or not all of it; null if it was
     */
    private function __construct(public ?string $found = null, public ?string $because = null)
    {
    }

    public static function notLooked(string $because): self
    {
        return new self(null, $because);
    }

    /** @param  string  $said  what clamd(8) says of a stream, without its number */
    public static function of(string $said): self
    {
        if ($said === 'OK') {
            return new self;
        }
        if (preg_match('/^([\x21-\x7e]{1,200}) FOUND$/D', $said, $m) !== 1) {
            return self::notLooked('the scanner says: '.mb_strcut(mb_scrub($said), 0, 200));
        }
        foreach (self::NOT_LOOKED as $begins => $because) {
            if (str_starts_with($m[1], $begins)) {
                return self::notLooked($because);
            }
        }

        return new self((string) preg_replace('/\.UNOFFICIAL$/D', '', $m[1]));
    }
}
