<?php

declare(strict_types=1);

namespace Kaiseki\Core\Protect;

use Kaiseki\Core\Chain\Level;
use Kaiseki\Core\Instant;

/** What is written beside a set as NAME.set.json. */
final readonly class SetRecord
{
    /** Of what is written now: with the kind and the parts. A record of format 1 is read as far as it goes. */
    public const FORMAT = 'kaiseki set 2';

    public function __construct(
        public string $name,
        public Level $level,
        public Level $asked,
        public ?string $base,
        public string $history,
        public Instant $capturedFrom,
        public Instant $capturedAt,
        /** @var list<string> */
        public array $remarks,
        public string $consistency = 'unknown',
        /** Of workload, as whoever rebuilds a catalog must know it. */
        public string $kind = 'files',
        public Exclusions $excluded = new Exclusions,
    ) {
    }

    /**
     * @param  string  $file  the archive beside it
     * @param  string  $digest  of that
     * @param  string  $manifest  digest of the manifest
     * @return array<string, mixed>
     */
    public function toArray(SetCounts $counts, string $file, string $digest, int $bytes, string $manifest): array
    {
        return [
            'format' => self::FORMAT,
            'kind' => $this->kind,
            'name' => $this->name,
            'level' => $this->level->name,
            'asked_level' => $this->asked->name,
            'base' => $this->base,
            'history' => $this->history,
            'captured_from' => $this->capturedFrom->iso(),
            'captured_at' => $this->capturedAt->iso(),
            'consistency' => $this->consistency,
            'entries' => $counts->entries,
            'stored' => $counts->stored,
            'bytes' => $bytes,
            'blake2b_256' => bin2hex($digest),
            'manifest_blake2b_256' => bin2hex($manifest),
            'remarks' => [...$this->remarks, ...$counts->remarks],
            ...$this->excluded->all === [] ? [] : ['excluded' => $this->excluded->toArray()],
            'parts' => [(new PartRecord('', $file, $bytes, bin2hex($digest)))->toArray()],
        ];
    }
}
