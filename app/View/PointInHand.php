<?php

declare(strict_types=1);

namespace App\View;

use App\Models\RecoveryRequest;
use App\Sets\Points;
use App\Sets\SetOutline;
use App\Words;
use Kaiseki\Core\Chain\FoundPoint;
use Kaiseki\Core\Instant;

/** Says why a point is the one in hand for a request, and why others are not, or why there is none. */
final readonly class PointInHand
{
    /**
     * @param  Points|null  $points  null while the workload is not settled
     * @param  FoundPoint  $found  for the wanted moment
     * @param  SetOutline|null  $point  the one in hand: the operator's own choice, or the proposed one
     */
    public function __construct(
        private RecoveryRequest $request,
        private ?Points $points,
        private FoundPoint $found,
        private ?SetOutline $point,
        private string $zone,
    ) {
    }

    public function isOwnChoice(): bool
    {
        return $this->request->set_id !== null;
    }

    /** From the point to the wanted moment; negative for a point that is later. Null while there is none. */
    public function lossSeconds(): int|float|null
    {
        return $this->point === null
            ? null
            : $this->point->set->capturedAt->secondsUntil(Instant::of($this->request->wanted_at));
    }

    public function sentences(): string
    {
        $loss = (float) ($this->lossSeconds() ?? 0);
        if ($this->point === null) {
            return $this->whyNone();
        }
        $lost = $loss > 0 ? ' What changed in the hatched '.Words::duration($loss).' is not in it.' : '';
        if ($this->request->wanted_at->isFuture()) {
            $lost = ' The wanted moment is still to come.'.$lost;
        }
        if ($this->isOwnChoice()) {
            return 'Your own choice of point.'.($loss < 0 ? ' It is later than the wanted moment: what went wrong may be in it.' : $lost);
        }
        if ($this->found->passedOver === []) {
            return 'The newest good point before the wanted moment.'.$lost;
        }
        $first = $this->found->passedOver[0];

        return sprintf(
            'The newest good point; %s passed over: %s, since %s%s.%s',
            count($this->found->passedOver) === 1 ? 'one newer was' : count($this->found->passedOver).' newer were',
            Words::moment($first->set->capturedAt->in(), $this->zone, false),
            $first->because,
            count($this->found->passedOver) > 1 ? ', and so on below' : '',
            $lost,
        );
    }

    private function whyNone(): string
    {
        $wanted = Instant::of($this->request->wanted_at);
        $sets = $this->points->sets ?? [];
        $first = reset($sets);
        if ($first === false) {
            return 'There is no point yet: nothing was ever made or adopted for this workload.';
        }
        if ($first->instant > $wanted->microseconds) {
            return 'The wanted moment is before the first point, '.
                Words::moment($first->capturedAt(), $this->zone).
                '. Take the nearest after, or set another moment.';
        }
        $passed = $this->found->passedOver[0] ?? null;

        return 'There is no usable point at or before the wanted moment that meets the demands'.
            ($passed === null
                ? ''
                : ': '.Words::moment($passed->set->capturedAt->in(), $this->zone, false).", since {$passed->because}").
            '. Take a demand away, or choose a point below.';
    }

    /** @return list<ChartRow> the sets that a chart shows, newest first, and why each is in hand or is not */
    public function rows(ChainChart $chart): array
    {
        $passed = [];
        foreach ($this->found->passedOver as $over) {
            $passed[$over->set->id] = $over->because;
        }
        $wanted = $this->request->wanted_at->getTimestamp() * 1_000_000;
        $rows = [];
        foreach (array_reverse($chart->posts) as $post) {
            $set = $post->set;
            $rows[] = new ChartRow($post, match (true) {
                $chart->isChosen($set) => $this->isOwnChoice() ? 'your choice' : 'chosen: newest good one',
                isset($passed[$set->name]) => $passed[$set->name],
                $set->instant > $wanted => rtrim('after the wanted moment; '.$chart->remark($set), '; '),
                default => $chart->remark($set),
            });
        }

        return $rows;
    }
}
