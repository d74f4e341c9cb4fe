<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Order;

use App\Kinds\Machines\Hypervisors\HypervisorHost;
use App\Sets\SetOutline;
use App\Words;
use Kaiseki\Core\Catalog\EntryPath;
use Kaiseki\Core\Catalog\Shown;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Files\ConflictRule;
use Kaiseki\Core\Hypervisor\MachineSeen;

/** Files out of a machine that are to be brought into one, off or running, as they are confirmed and kept with the run. */
final readonly class IntoOrder
{
    /** The way of such a run, in its plan. */
    public const WAY = 'into';

    /**
     * @param  list<string>  $paths  of the point, as MachineTree::find() takes them: bytes
     * @param  string  $machine  that they are brought into, at the hypervisor $on
     * @param  string  $folder  of that machine, likewise; '' for the place that each had
     * @param  bool  $isRunning  whether the machine runs, and they are brought in by its agent: then the folder is one as it sees it itself
     * @param  string  $date  that marks the name of what stands beside another
     */
    public function __construct(
        public array $paths,
        public string $on,
        public string $machine,
        public string $folder,
        public ConflictRule $conflict,
        public string $date,
        public CopyRule $copies = new CopyRule,
        public string $sentence = '',
        public bool $isRunning = false,
    ) {
    }

    public function sentenceFor(string $workload, SetOutline $point, string $zone): string
    {
        return sprintf(
            'Put %s out of %s as it was on %s into the machine %s at %s, %s, %s, and check it by digest, owner, mode and time.',
            FilesOrder::words($this->paths),
            $workload,
            Words::moment($point->capturedAt(), $zone),
            $this->machine,
            $this->on,
            ($this->folder === '' ? 'to its own place' : 'into /'.Shown::name($this->folder)).
                ($this->isRunning ? ', while it runs, by its agent' : ''),
            $this->conflict->words(),
        );
    }

    public function withSentence(string $sentence): self
    {
        return new self(...['sentence' => $sentence] + get_object_vars($this));
    }

    /**
     * What stands in the way at its machine.
     *
     * @param  MachineSeen|null  $machine  as it was seen; null if it is not there
     * @return list<string>
     */
    public function blockers(?MachineSeen $machine): array
    {
        return match (true) {
            $machine === null => ["There is no machine {$this->machine} at {$this->on}."],
            $this->isRunning && $this->folder === '' && $this->inOneFolder() === null => [
                "{$this->machine} at {$this->on} runs, and they do not lie in one folder of one volume: say in which folder they go, or ".
                    'bring them one after the other.',
            ],
            default => [],
        };
    }

    /** The folder of the point in which all of them lie, its volume first; null if they lie in several, or one is a volume. */
    public function inOneFolder(): ?string
    {
        $folders = array_unique(array_map(fn (string $path): string => EntryPath::split($path)[0], $this->paths));

        return count($folders) === 1 && $folders[0] !== '' ? $folders[0] : null;
    }

    /** @throws CannotBring if it is not known any more */
    public function host(): HypervisorHost
    {
        return HypervisorHost::named($this->on);
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'way' => self::WAY,
            'paths' => array_map(rawurlencode(...), $this->paths),
            'on' => $this->on,
            'machine' => $this->machine,
            'folder' => rawurlencode($this->folder),
            'conflict' => $this->conflict->value,
            'date' => $this->date,
            'use' => $this->copies->use,
            'avoid' => $this->copies->avoid,
            'sentence' => $this->sentence,
            'running' => $this->isRunning,
        ];
    }

    /** @param  array<string, mixed>  $kept */
    public static function fromArray(array $kept): self
    {
        return new self(
            array_map(fn (mixed $path): string => rawurldecode((string) $path), array_values((array) $kept['paths'])),
            (string) $kept['on'],
            (string) $kept['machine'],
            rawurldecode((string) $kept['folder']),
            ConflictRule::from((string) $kept['conflict']),
            (string) $kept['date'],
            new CopyRule($kept['use'] ?? [], $kept['avoid'] ?? []),
            (string) ($kept['sentence'] ?? ''),
            (bool) ($kept['running'] ?? false),
        );
    }
}
