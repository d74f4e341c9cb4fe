<?php

declare(strict_types=1);

namespace App\Care;

use Carbon\CarbonImmutable;

/** What the rules of a workload did not keep when it was looked at last. What is deleted is reckoned anew: see Expiry::carryOut. */
final readonly class KeptExpiry
{
    private function __construct(
        /** @var list<ExpiringCopy> in the order of deleting; the first of many, without the names of their sets */
        public array $lines,
        public int $copies,
        public int $bytes,
        public int $goneSets,
        public bool $leavesNothing,
        /** Of the plan that was shown. */
        public string $fingerprint,
    ) {
    }

    /** More lines than anybody reads. */
    private const SHOWN = 500;

    /** @return array<string, mixed> as it is kept */
    public static function document(Expiry $expiry): array
    {
        $lines = $expiry->lines();

        return [
            'lines' => array_map(
                fn (ExpiringCopy $line): array => [$line->at->format('Y-m-d\TH:i:s\Z'), $line->level, $line->store, $line->bytes],
                array_slice($lines, 0, self::SHOWN),
            ),
            'copies' => count($lines),
            'bytes' => $expiry->bytes(),
            'gone' => count($expiry->plan->goneSets()),
            'nothing_left' => $expiry->leavesNothing(),
            'fingerprint' => $expiry->fingerprint(),
        ];
    }

    /** @param  array<string, mixed>  $kept  see document() */
    public static function of(array $kept): self
    {
        return new self(
            array_map(
                fn (array $line): ExpiringCopy => new ExpiringCopy('', $line[2], $line[3], $line[1], CarbonImmutable::parse($line[0])),
                $kept['lines'],
            ),
            $kept['copies'],
            $kept['bytes'],
            $kept['gone'],
            $kept['nothing_left'],
            $kept['fingerprint'],
        );
    }
}
