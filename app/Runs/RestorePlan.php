<?php

declare(strict_types=1);

namespace App\Runs;

use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Files\ConflictRule;

/** The order of a run as it was confirmed. */
final readonly class RestorePlan
{
    public function __construct(
        /** @var list<string> bytes */
        public array $paths,
        public string $target,
        public ConflictRule $conflict,
        /** Goes into the names of what is put beside something. */
        public string $date,
        public string $sentence,
        public bool $inPlace = false,
        public bool $flat = false,
        public bool $keepSetId = false,
        /** Whether the target was not there, or empty, when the order was given: then the top's own mode and time come back too. */
        public bool $targetIsNew = false,
        public CopyRule $copies = new CopyRule,
        /** Each file from the newest point at which it can be read: '' for no, else readable, or clear for one that is not in doubt either. */
        public string $acrossPoints = '',
        /** Whether a set of what is there now is made before anything is put in place. */
        public bool $setFirst = false,
    ) {
    }

    public function withSetFirst(): self
    {
        return self::fromArray(['set_first' => true] + $this->toArray());
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'paths' => array_map(rawurlencode(...), $this->paths), 'target' => rawurlencode($this->target), 'conflict' => $this->conflict->value, 'date' => $this->date,
            'sentence' => $this->sentence, 'in_place' => $this->inPlace, 'flat' => $this->flat, 'keep_setid' => $this->keepSetId, 'target_is_new' => $this->targetIsNew,
            'across_points' => $this->acrossPoints, 'set_first' => $this->setFirst, 'use' => $this->copies->use, 'avoid' => $this->copies->avoid,
        ];
    }

    /** @param  array<string, mixed>  $plan */
    public static function fromArray(array $plan): self
    {
        return new self(
            array_map(rawurldecode(...), $plan['paths']), rawurldecode($plan['target']), ConflictRule::from($plan['conflict']), $plan['date'],
            $plan['sentence'], $plan['in_place'], $plan['flat'], $plan['keep_setid'], $plan['target_is_new'], new CopyRule($plan['use'] ?? [], $plan['avoid'] ?? []), $plan['across_points'] ?? '', $plan['set_first'] ?? false,
        );
    }
}
