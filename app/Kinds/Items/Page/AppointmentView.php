<?php

declare(strict_types=1);

namespace App\Kinds\Items\Page;

use App\Kinds\Items\Catalog\FoundItem;
use App\Kinds\Items\Catalog\ItemSpan;
use App\Models\BackupSet;
use App\Models\Workload;
use Carbon\CarbonImmutable;
use DateTimeZone;
use Kaiseki\Core\Mail\Calendar\Attendee;
use Kaiseki\Core\Mail\Calendar\CalendarComponent;
use Kaiseki\Core\Mail\Calendar\CalendarObject;
use Kaiseki\Core\Mail\Calendar\Occurrence;
use Kaiseki\Core\Mail\Calendar\Series;

/** An appointment that somebody opened: what it says, when it takes place, and the week of one of its days. */
final readonly class AppointmentView
{
    /** Days of a series that are named around the chosen one. */
    private const NAMED = 12;

    private const MOST = 2_000;

    private const TEXT = 20_000;

    /** @param  list<Occurrence>  $all */
    private function __construct(
        private Workload $workload,
        private ?BackupSet $point,
        private FoundItem $item,
        public CalendarObject $object,
        public ?Series $series,
        public array $all,
        public ?Occurrence $chosen,
        private string $zone,
    ) {
    }

    /** @param  string  $day  key of the day that is looked at; '' for the one that is nearest */
    public static function of(Workload $workload, ?BackupSet $point, FoundItem $item, string $bytes, string $day, string $zone): self
    {
        $object = CalendarObject::of($bytes);
        $series = $object->series(new DateTimeZone($workload->zone));
        $near = $point === null ? time() : $point->captured_at->getTimestamp();
        $all = $series === null ? [] : $series->between($near - 2 * 366 * 86_400, $near + 2 * 366 * 86_400, self::MOST);
        $all = $all === [] && $series !== null ? $series->between($series->start->seconds(), PHP_INT_MAX >> 20, 50) : $all;

        return new self($workload, $point, $item, $object, $series, $all, self::chosen($all, $day, $near), $zone);
    }

    /**
     * The day that is asked for, else the next that is changed, else the next.
     *
     * @param  list<Occurrence>  $all
     */
    private static function chosen(array $all, string $day, int $near): ?Occurrence
    {
        $next = null;
        $rank = fn (Occurrence $of): array => [$of->isException ? 0 : 1, abs($of->begins - $near)];
        foreach ($all as $one) {
            if ($one->key === $day) {
                return $one;
            }
            $next = $next === null || $rank($one) < $rank($next) ? $one : $next;
        }

        return $next;
    }

    /** The place in which it lay at the point, else the newest. */
    public function span(): ?ItemSpan
    {
        $spans = $this->point === null ? [] : $this->item->spansAt($this->point->history_id, $this->point->instant);

        return $spans[0] ?? ($this->item->spans === [] ? null : $this->item->spans[count($this->item->spans) - 1]);
    }

    public function week(): ?WeekPicture
    {
        $span = $this->span();

        return $this->chosen === null || $span === null ? null : WeekPicture::of(
            $this->workload,
            $this->point,
            $span->mailbox,
            $span->folder,
            $this->item->title(),
            $this->all,
            $this->chosen,
            $this->zone,
        );
    }

    /** @return list<Occurrence> those around the chosen one */
    public function around(): array
    {
        $at = $this->chosen === null ? 0 : (int) array_search($this->chosen, $this->all, true);

        return array_slice($this->all, max(0, $at - intdiv(self::NAMED, 2)), self::NAMED);
    }

    public function repeats(): bool
    {
        return count($this->all) > 1 || $this->series?->repeats() === true;
    }

    /** When an occurrence begins and ends, as it is written on a wall. */
    public function words(Occurrence $of): string
    {
        $isDay = $this->series?->start->isDay === true;
        $zone = $isDay ? $this->workload->zone : $this->zone;
        $from = CarbonImmutable::createFromTimestamp($of->begins, $zone);
        $to = CarbonImmutable::createFromTimestamp($of->ends, $zone);
        if ($isDay) {
            return $of->ends - $of->begins > 90_000
                ? $from->format('D Y-m-d').' to '.$to->subDay()->format('D Y-m-d')
                : $from->format('D Y-m-d');
        }

        return $from->format('D Y-m-d H:i').($of->ends === $of->begins ? '' : $to->format($from->isSameDay($to) ? '–H:i'
            : ' – D Y-m-d H:i'));
    }

    /** What the day that is looked at says: its exception, or the series as a whole. */
    public function said(): CalendarComponent
    {
        $exception = $this->chosen === null
            ? null
            : $this->object->exception($this->chosen->key, new DateTimeZone($this->workload->zone));

        return $exception ?? $this->object->said();
    }

    /** @return list<Attendee> */
    public function attendees(): array
    {
        return array_slice($this->object->attendees(), 0, 100);
    }

    public function text(): string
    {
        return mb_strcut($this->said()->text('DESCRIPTION'), 0, self::TEXT);
    }
}
