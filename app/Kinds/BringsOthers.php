<?php

declare(strict_types=1);

namespace App\Kinds;

use App\Models\BackupSet;
use App\Models\RecoveryRequest;
use App\Models\Workload;
use App\Sets\Points;
use App\Sets\SetOutline;
use Illuminate\Contracts\View\View;
use Symfony\Component\Console\Command\Command;
use Symfony\Component\Console\Input\InputInterface;

/**
 * A kind that can bring workloads of another kind back too, as a whole of its own: a machine out of the files that it sent. Its runs of
 * them say whose they are (runs.kind), and everything else about the workload stays with its own kind.
 */
interface BringsOthers extends Kind
{
    /** Whether it can, as the newest set of the workload is. */
    public function brings(Workload $workload): bool;

    /** What it can give of one set, as a line beside what the workload's own kind gives; null if nothing. */
    public function given(BackupSet $set): ?Given;

    /**
     * Writes down how a person does it without this desk, with archives that lie there.
     *
     * @param  list<string>  $archives  below the folder above that one, the full first
     * @return string|null one line about it; null if there is nothing to be written
     */
    public function writeNightSheet(Points $points, SetOutline $point, array $archives, string $folder): ?string;

    /** Adds the options by which that is said to a command. */
    public function describeBringing(Command $command): void;

    /** Whether an order on the command line means it. */
    public function isMeant(InputInterface $input): bool;

    /** What a request's page has of it: where it begins, and how far it is. */
    public function offer(RecoveryRequest $request): View;
}
