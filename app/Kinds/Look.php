<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\RecoveryRequest;
use Closure;

/** Something about a request that takes too long for a page: a job looks, what it found is kept, and pages show it with its time. */
interface Look
{
    /** @param  array<string, string>  $asked */
    public function __construct(RecoveryRequest $request, array $asked);

    /** What is looked at, such as "the rows of fares.tickets". */
    public function title(): string;

    /** Changes with whatever was settled that decides what is found: what was found for another is not shown. 64 hexadecimal digits. */
    public function fingerprint(): string;

    /**
     * @param  Closure(string): void  $told  how far it has come, in a few words
     * @return array<string, mixed> what was found, in UTF-8; also that nothing can be found, and why
     */
    public function take(Closure $told): array;
}
