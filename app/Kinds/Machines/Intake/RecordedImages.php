<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Intake;

use Kaiseki\Core\Hypervisor\MachineSettings;
use Kaiseki\Core\Protect\Consistency;
use Kaiseki\Core\Protect\PartRecord;

/** What the record beside a set of a machine says. */
final readonly class RecordedImages
{
    /**
     * @param  non-empty-list<FoundImage>  $images
     * @param  list<PartRecord>  $parts  of the same files
     * @param  string  $base  name of the set that it rests on; '' for none
     * @param  list<string>  $excluded  disks that are not in it
     */
    public function __construct(
        public string $name,
        public array $images,
        public array $parts,
        public string $base,
        public Consistency $consistency,
        public MachineSettings $settings,
        public array $excluded,
    ) {
    }

    /** @return array{int, int, string} in the order in which sets were made */
    public function rank(): array
    {
        return [$this->images[0]->at->microseconds, $this->images[0]->level->isFull() ? 0 : 1, $this->name];
    }
}
