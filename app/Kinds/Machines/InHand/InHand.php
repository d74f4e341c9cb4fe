<?php

declare(strict_types=1);

namespace App\Kinds\Machines\InHand;

use App\Kinds\Touched;

/** What is settled on a worksheet of a machine, in one of the forms that it can have: images, files, a machine, files into a machine. */
interface InHand
{
    /** @return list<string> what stands in the way, of what is picked and of where it goes */
    public function blockers(): array;

    /** Looks at where it goes now. */
    public function lookAgain(): void;

    public function sentence(string $zone): string;

    /** Of another order, or of one whose target has become another, it is another. */
    public function identity(): mixed;

    public function touches(): Touched;

    /** Whether something that is there may be changed, or set aside. */
    public function mayReplace(): bool;

    /** @return array<string, mixed> for whoever approves it */
    public function previewCounts(): array;

    /** @return array<string, mixed> the columns of the run that it becomes, beside its set */
    public function runAttributes(): array;
}
