<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\Run;
use App\Models\User;
use Kaiseki\Core\Files\UnableToRestore;

/** Carries runs out, undoes them, and clears up after them. */
interface Carrier
{
    /** Step by step; after a crash it is simply carried out again. */
    public function carryOut(Run $run): void;

    /** Whether something it did to its target can still be undone. */
    public function canBePutBack(Run $run): bool;

    /** Whether what somebody changed since goes with it, whatever is asked for. */
    public function losesLaterChanges(): bool;

    /**
     * @param  bool  $alsoChanged  also where somebody changed what was placed since
     *
     * @throws UnableToRestore|Refusal
     */
    public function putBack(Run $run, bool $alsoChanged): PutBackTold;

    /**
     * Removes what a run replaced: from then on it cannot be put back.
     *
     * @throws UnableToRestore|Refusal if the target cannot be reached, or a run is at work there
     */
    public function clearAside(Run $run, ?User $by): void;

    /**
     * Removes what a run had staged that nobody went on with.
     *
     * @throws UnableToRestore|Refusal
     */
    public function clearStaged(Run $run): void;

    /** @throws UnableToRestore|Refusal if its target is not known any more */
    public function touches(Run $run): Touched;

    /** The order of a run as a sentence, with moments in a zone. */
    public function sentence(Run $run, string $zone): string;

    /** What came back, in a few words: "3 files, 12 MB". */
    public function came(Run $run): string;

    /** How far it is, in a few words: "2 of 3 files". */
    public function howFar(Run $run): string;

    /** @return array<string, string> ending => file that goes with the proof */
    public function besideProof(Run $run): array;

    /**
     * @param  array<string, mixed>  $evidence  also of a version before, which had less in it
     * @return array<string, mixed> as the view of the proof takes it
     */
    public function evidence(array $evidence): array;
}
