<?php

declare(strict_types=1);

namespace App\Kinds\Files\Order;

use App\Words;
use Kaiseki\Core\Instant;

/** Says why this point is the one in hand, or why there is none. */
final readonly class WhyThisPoint
{
    public function __construct(private Worksheet $sheet, private string $zone)
    {
    }

    public function sentences(): string
    {
        $sheet = $this->sheet;
        $found = $sheet->found;
        $loss = (float) ($sheet->lossSeconds() ?? 0);
        if ($sheet->point === null) {
            return $this->whyNone();
        }
        $lost = $loss > 0 ? ' What changed in the hatched '.Words::duration($loss).' is not in it.' : '';
        if ($this->sheet->request->wanted_at->isFuture()) {
            $lost = ' The wanted moment is still to come.'.$lost;
        }
        if ($sheet->isOwnChoice()) {
            return 'Your own choice of point.'.($loss < 0 ? ' It is later than the wanted moment: what went wrong may be in it.' : $lost);
        }
        if ($found->passedOver === []) {
            return 'The newest good point before the wanted moment.'.$lost;
        }
        $first = $found->passedOver[0];

        return sprintf(
            'The newest good point; %s passed over: %s, since %s%s.%s',
            count($found->passedOver) === 1 ? 'one newer was' : count($found->passedOver).' newer were',
            Words::moment($first->set->capturedAt->in(), $this->zone, false),
            $first->because,
            count($found->passedOver) > 1 ? ', and so on below' : '',
            $lost,
        );
    }

    private function whyNone(): string
    {
        $wanted = Instant::of($this->sheet->request->wanted_at);
        $sets = $this->sheet->points->sets ?? [];
        $first = reset($sets);
        if ($first === false) {
            return 'There is no point yet: nothing was ever made or adopted for this workload.';
        }
        if ($first->instant > $wanted->microseconds) {
            return 'The wanted moment is before the first point, '.
                Words::moment($first->capturedAt(), $this->zone).
                '. Take the nearest after, or set another moment.';
        }
        $passed = $this->sheet->found->passedOver[0] ?? null;

        return 'There is no usable point at or before the wanted moment that meets the demands'.
            ($passed === null
                ? ''
                : ': '.Words::moment($passed->set->capturedAt->in(), $this->zone, false).", since {$passed->because}").
            '. Take a demand away, or choose a point below.';
    }
}
