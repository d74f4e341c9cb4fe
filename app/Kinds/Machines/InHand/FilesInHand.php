<?php

declare(strict_types=1);

namespace App\Kinds\Machines\InHand;

use App\Kinds\Machines\Disks\MachineTree;
use App\Kinds\Machines\Order\FilesOrder;
use App\Kinds\Machines\Run\MachineCarrier;
use App\Kinds\Touched;
use App\Models\Host;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Trees\Run\RestorePlan;
use App\Trees\Run\TouchedFolder;
use Kaiseki\Core\Files\UnableToRestore;

/** Files out of a machine into a folder. */
final class FilesInHand implements InHand
{
    /** @var list<string>|null */
    private ?array $unfit = null;

    public function __construct(
        private readonly Points $points,
        private readonly SetOutline $point,
        public readonly RestorePlan $files,
        private readonly ?Host $host,
    ) {
    }

    public function blockers(): array
    {
        return $this->unfit ??= [
            ...FilesOrder::notThere(new MachineTree($this->points, $this->point, $this->files->copies), $this->files->paths),
            ...$this->unfitTarget(),
        ];
    }

    /** @return list<string> */
    private function unfitTarget(): array
    {
        try {
            $this->files->look()->freeBytes();
        } catch (UnableToRestore $unable) {
            return [$unable->getMessage()];
        }

        return [];
    }

    public function lookAgain(): void
    {
        $this->unfit = null;
    }

    public function sentence(string $zone): string
    {
        return FilesOrder::sentence($this->files->paths, $this->points->workload->name, $this->point, $this->files->target, $zone);
    }

    public function identity(): mixed
    {
        return array_diff_key($this->files->toArray(), ['date' => 0]);
    }

    public function touches(): Touched
    {
        return new Touched([TouchedFolder::of($this->host, $this->files->target, $this->mayReplace())]);
    }

    public function mayReplace(): bool
    {
        return $this->files->conflict->replaces();
    }

    public function previewCounts(): array
    {
        return ['files' => count($this->files->paths).' picked, '.$this->files->conflict->words()];
    }

    public function runAttributes(): array
    {
        return ['plan' => ['way' => MachineCarrier::FILES] + $this->files->toArray(), 'is_whole' => false];
    }
}
