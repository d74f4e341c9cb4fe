<?php

declare(strict_types=1);

namespace App\Kinds\Items\Catalog;

use Kaiseki\Core\Mail\Calendar\CalendarObject;
use Kaiseki\Core\Mail\Calendar\RecurrenceRule;
use Kaiseki\Core\Mail\Calendar\RuleWords;
use Kaiseki\Core\Mail\Calendar\Series;

/** When and where an appointment takes place, as a list shows it. */
final readonly class CalendarFacts
{
    private const LONGEST = 300;

    /** @param  string  $repeats  in words; '' for what takes place once */
    public function __construct(
        public bool $isAllDay,
        /** As the appointment names it; '' where it names none. */
        public string $zone,
        public string $repeats,
        public int $exceptions,
        public string $place,
    ) {
    }

    public static function of(CalendarObject $object, ?Series $series): self
    {
        $rules = array_map(fn (RecurrenceRule $rule): string => RuleWords::of($rule), $series->rules ?? []);
        $isUnread = $rules === [] && $object->rule() !== '';

        return new self(
            $series?->start->isDay === true,
            mb_strcut($series?->start->zoneName ?? '', 0, 100),
            mb_strcut($isUnread ? 'by a rule that means nothing' : implode('; ', $rules), 0, self::LONGEST),
            count($object->exceptions),
            mb_strcut($object->place(), 0, self::LONGEST),
        );
    }
}
