<?php

declare(strict_types=1);

namespace App\Sets;

use App\Models\RecoveryRequest;
use App\Models\Store;
use Kaiseki\Core\Chain\CopyRule;
use Kaiseki\Core\Chain\CopyState;

/** From which other copies what is selected could be read, and what that costs. */
final readonly class CopyChoices
{
    /**
     * @param  ReadingPlan|null  $reading  with the copies that were settled; null where those do not suffice, or nothing is settled
     * @param  ReadingPlan|null  $any  with any copies; null where nothing is settled
     */
    public function __construct(
        private Points $points,
        private RecoveryRequest $request,
        public ?ReadingPlan $reading,
        private ?ReadingPlan $any,
    ) {
    }

    /** A store of ours beside the target that sets can be brought to; null if there is none. */
    public function nearStore(): ?Store
    {
        return $this->points->stores
            ->all()
            ->first(
                fn (Store $store): bool => $store->kind === 'folder' &&
                    ! $store->read_only &&
                    $store->site === $this->request->workload?->site,
            );
    }

    /** @return list<int> ids of the sets that would be read from tape or over a lane, though a store stands beside the target */
    public function farSets(): array
    {
        $near = $this->nearStore();
        $far = [];
        foreach ($this->reading?->list()->readings ?? [] as $line) {
            $set = $this->points->set($line->set->id);
            if (
                $set !== null &&
                $near !== null &&
                $line->copy->store !== $near->name &&
                array_filter(
                    $set->copies,
                    fn (CopyOutline $copy): bool => $copy->store->id === $near->id && $copy->state !== CopyState::Missing,
                ) === []
            ) {
                $far[] = $set->id;
            }
        }

        return $far;
    }

    /** @return list<CopyChoice> one for each store that has something of what is needed, or is settled not to be read */
    public function all(): array
    {
        $points = $this->points;
        $reading = $this->reading ?? $this->any;
        if ($reading === null) {
            return [];
        }
        $rule = $this->request->copyRule();
        $choices = [];
        foreach ($reading->copiesByStore() as $name => $sets) {
            // Each with what is settled for the other stores.
            [$use, $avoid] = [array_values(array_diff($rule->use, [$name])), array_values(array_diff($rule->avoid, [$name]))];
            $choices[] = new CopyChoice(
                $points->stores->all()->firstOrFail('name', $name),
                $sets,
                $reading->estimateWith(new CopyRule($use, $avoid)),
                $reading->estimateWith(new CopyRule([...$use, $name], $avoid)),
                $reading->estimateWith(new CopyRule($use, [...$avoid, $name])),
                in_array($name, $rule->use, true) ? 'use' : (in_array($name, $rule->avoid, true) ? 'avoid' : 'best'),
            );
        }
        foreach ($rule->avoid as $name) {
            $store = $points->stores->all()->firstWhere('name', $name);
            if ($store !== null && ! isset($reading->copiesByStore()[$name])) {
                $choices[] = new CopyChoice($store, 0, null, null, $reading->estimate(), 'avoid');
            }
        }

        return $choices;
    }

    public function setsNeeded(): int
    {
        return ($this->reading ?? $this->any)?->setsNeeded() ?? 0;
    }
}
