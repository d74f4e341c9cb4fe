<?php

declare(strict_types=1);

namespace App\Trees\Run;

use App\Hosts\Hosts;
use App\Models\Host;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Files\ConflictRule;
use Kaiseki\Core\Files\Journal;
use Kaiseki\Core\Files\Look;
use Kaiseki\Core\Files\Target;
use Kaiseki\Core\Files\UnableToRestore;

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
        /**
         * Each file from the newest point at which it can be read: '' for no, else readable, or clear for one that is not in doubt
         * either.
         */
        public string $acrossPoints = '',
        /** Whether a set of what is there now is made before anything is put in place. */
        public bool $setFirst = false,
        /** The host that the target is a folder of; '' for this machine. */
        public string $host = '',
        /** @var array<array-key, ConflictRule> folder => the rule that holds in it instead */
        public array $conflictIn = [],
        /** Another name for the one path; '' for its own. */
        public string $renameTo = '',
        /** What stood in the target when the order was given: see Preview. '' where nobody looked. */
        public string $previewed = '',
        /** @var list<string> run on this machine, in the target, before anything is staged and after everything was checked */
        public array $before = [],
        /** @var list<string> */
        public array $after = [],
        /** Seconds that each of them may take. */
        public int $commandLimit = 300,
        /** zip or tar, for what is sent to a browser instead of a target; '' for a target. */
        public string $download = '',
        /** See RestoreOrder. */
        public bool $permissionsOnly = false,
    ) {
    }

    public function withSetFirst(): self
    {
        return self::fromArray(['set_first' => true] + $this->toArray());
    }

    public function withSentence(string $sentence): self
    {
        return self::fromArray(['sentence' => $sentence] + $this->toArray());
    }

    public function withPreview(string $fingerprint): self
    {
        return self::fromArray(['previewed' => $fingerprint] + $this->toArray());
    }

    /** @throws UnableToRestore if its host is gone */
    public function hostModel(): ?Host
    {
        return $this->host === ''
            ? null
            : Host::query()->where('name', $this->host)->first() ??
                    throw UnableToRestore::targetUnfit($this->target, "the host {$this->host} is not known any more");
    }

    /**
     * The target, made if only its last part is missing.
     *
     * @throws UnableToRestore
     */
    public function open(): Target
    {
        return Hosts::target($this->hostModel(), $this->target, Targets::root($this->hostModel(), $this->target));
    }

    /**
     * The same for a run: how the target is before anything comes into it is written down first.
     *
     * @throws UnableToRestore
     */
    public function openFor(Journal $journal): Target
    {
        if (Journal::isBegun($journal->path)) {
            return $this->open();
        }
        $isMissing = $this->look()->status('') === null;
        if ($isMissing) {
            $journal->add(Journal::MADE_TARGET);
        }
        $target = $this->open();
        $status = $isMissing ? null : $target->status('');
        if ($status !== null) {
            $journal->entered('', $status);
        }

        return $target;
    }

    /** @throws UnableToRestore if its host does not answer */
    public function look(): Look
    {
        return Hosts::look($this->hostModel(), $this->target, Targets::root($this->hostModel(), $this->target));
    }

    /** @return array<string, mixed> */
    public function toArray(): array
    {
        return [
            'paths' => array_map(rawurlencode(...), $this->paths),
            'target' => rawurlencode($this->target),
            'conflict' => $this->conflict->value,
            'date' => $this->date,
            'sentence' => $this->sentence,
            'in_place' => $this->inPlace,
            'flat' => $this->flat,
            'keep_setid' => $this->keepSetId,
            'target_is_new' => $this->targetIsNew,
            'across_points' => $this->acrossPoints,
            'set_first' => $this->setFirst,
            'use' => $this->copies->use,
            'avoid' => $this->copies->avoid,
            'host' => $this->host,
            'rename_to' => rawurlencode($this->renameTo),
            'previewed' => $this->previewed,
            'conflict_in' => array_map(
                fn (int|string $folder, ConflictRule $rule): array => [rawurlencode((string) $folder), $rule->value],
                array_keys($this->conflictIn),
                $this->conflictIn,
            ),
            'before' => $this->before,
            'after' => $this->after,
            'command_limit' => $this->commandLimit,
            'download' => $this->download,
        ] + ($this->permissionsOnly ? ['permissions_only' => true] : []); // only then: orders of before wait under what they were
    }

    /** @param  array<string, mixed>  $plan */
    public static function fromArray(array $plan): self
    {
        $conflictIn = [];
        foreach ($plan['conflict_in'] ?? [] as [$folder, $rule]) {
            $conflictIn[rawurldecode($folder)] = ConflictRule::from($rule);
        }

        return new self(
            array_map(rawurldecode(...), $plan['paths']),
            rawurldecode($plan['target']),
            ConflictRule::from($plan['conflict']),
            $plan['date'],
            $plan['sentence'],
            $plan['in_place'],
            $plan['flat'],
            $plan['keep_setid'],
            $plan['target_is_new'],
            new CopyRule($plan['use'] ?? [], $plan['avoid'] ?? []),
            $plan['across_points'] ?? '',
            $plan['set_first'] ?? false,
            $plan['host'] ?? '',
            $conflictIn,
            rawurldecode($plan['rename_to'] ?? ''),
            $plan['previewed'] ?? '',
            $plan['before'] ?? [],
            $plan['after'] ?? [],
            $plan['command_limit'] ?? 300,
            $plan['download'] ?? '',
            $plan['permissions_only'] ?? false,
        );
    }
}
