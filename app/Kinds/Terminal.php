<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\Workload;
use InvalidArgumentException;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;

/** A kind on the command line. */
interface Terminal
{
    /** @return list<Command> that nobody else has */
    public function commands(): array;

    /** @return list<string> names of the commands that may be given for one of its workloads, of those that only some kinds know */
    public function takes(): array;

    /** Adds its options to a command that is about to be run for one of its workloads: adopt, protect, restore, hand-sheet. */
    public function describe(Command $command): void;

    /**
     * Brings something back, or says what would be done.
     *
     * @throws InvalidArgumentException if it was asked for wrongly
     * @throws Refusal
     */
    public function restore(Workload $workload, InputInterface $input, Talk $talk): Told;

    /**
     * @return array{string, iterable<string>} the point, and the script
     *
     * @throws InvalidArgumentException|Refusal
     */
    public function handSheet(Workload $workload, InputInterface $input): array;

    /**
     * The workload of which a set is to be made, if it was said by the options of this kind where its original is; null if not.
     *
     * @throws InvalidArgumentException
     */
    public function sourceSaid(InputInterface $input, string $name, ?Workload $known): ?Workload;
}
