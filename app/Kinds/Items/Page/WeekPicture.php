<?php

declare(strict_types=1);

namespace App\Kinds\Items\Page;

use App\Kinds\Items\Catalog\NearbyAppointments;
use App\Models\BackupSet;
use App\Models\Workload;
use Carbon\CarbonImmutable;
use Kaiseki\Core\Mail\Calendar\Occurrence;

/** The week in which something takes place, a row for each day and the hours along it; with what else lies in that calendar, pale. */
final readonly class WeekPicture
{
    public const WIDTH = 720;

    public const ROW = 26;

    public const HEAD = 16;

    public const LEFT = 92;

    /** The hours that are always drawn. */
    private const FROM = 7;

    private const TO = 19;

    /**
     * @param  list<array{label: string, isToday: bool}>  $days
     * @param  list<array{x: float, label: string}>  $hours
     * @param  list<array{row: int, x: float, width: float, label: string, sort: string}>  $bars  sort: own, changed, chosen or other
     */
    private function __construct(public array $days, public array $hours, public array $bars)
    {
    }

    /**
     * @param  list<Occurrence>  $own
     * @param  Occurrence  $chosen  one of them, whose week it is
     */
    public static function of(
        Workload $workload,
        ?BackupSet $point,
        string $mailbox,
        string $folder,
        string $title,
        array $own,
        Occurrence $chosen,
        string $zone,
    ): self {
        $monday = CarbonImmutable::createFromTimestamp($chosen->begins, $zone)->startOfWeek();
        $end = $monday->addWeek();
        $all = [];
        $others = $point === null ? [] : NearbyAppointments::of($workload, $point, $mailbox, $folder, $monday, $end, $title);
        foreach ($others as $other) {
            $all[] = [$other->begins, $other->ends, $other->summary, 'other'];
        }
        foreach ($own as $one) {
            $sort = $one->key === $chosen->key ? 'chosen' : ($one->isException ? 'changed' : 'own');
            $all[] = [$one->begins, $one->ends, $one->summary === '' ? $title : $one->summary, $sort];
        }
        [$first, $last] = self::hours($all, $monday, $end);
        $scale = (self::WIDTH - self::LEFT) / (($last - $first) * 60);
        $bars = [];
        foreach ($all as [$begins, $ends, $label, $sort]) {
            foreach (self::byDay($begins, $ends, $monday) as $row => [$from, $to]) {
                $x = self::LEFT + $scale * max(0, $from - $first * 60);
                $bars[] = ['row' => $row, 'x' => round($x, 1), 'width' => round(max(3, $scale * ($to - $from)), 1)] +
                    ['label' => $label, 'sort' => $sort];
            }
        }
        $hours = array_map(
            fn (int $hour): array => ['x' => round(self::LEFT + $scale * 60 * ($hour - $first), 1), 'label' => sprintf('%02d', $hour)],
            range($first, $last, $last - $first > 16 ? 3 : 2),
        );
        $days = array_map(fn (int $number): array => [
            'label' => $monday->addDays($number)->format('D j M'),
            'isToday' => $monday->addDays($number)->isSameDay(CarbonImmutable::createFromTimestamp($chosen->begins, $zone)),
        ], range(0, 6));

        return new self($days, $hours, $bars);
    }

    public function height(): int
    {
        return self::HEAD + 7 * self::ROW;
    }

    /**
     * @param  list<array{int, int, string, string}>  $all
     * @return array{int, int} the first hour and the last that are drawn
     */
    private static function hours(array $all, CarbonImmutable $monday, CarbonImmutable $end): array
    {
        [$first, $last] = [self::FROM, self::TO];
        foreach ($all as [$begins, $ends]) {
            if ($begins < $end->getTimestamp() && $ends > $monday->getTimestamp()) {
                foreach (self::byDay($begins, $ends, $monday) as [$from, $to]) {
                    $first = min($first, intdiv($from, 60));
                    $last = max($last, intdiv($to + 59, 60));
                }
            }
        }

        return [$first, $last];
    }

    /** @return array<int, array{int, int}> number of the day in the week => minutes of it from and to */
    private static function byDay(int $begins, int $ends, CarbonImmutable $monday): array
    {
        $days = [];
        for ($number = 0; $number < 7; $number++) {
            $day = $monday->addDays($number);
            [$from, $to] = [$day->getTimestamp(), $day->addDay()->getTimestamp()];
            if ($begins < $to && max($ends, $begins + 60) > $from) {
                $first = $begins <= $from ? 0 : self::minute($begins, $day);
                $days[$number] = [$first, $ends >= $to ? 1440 : max($first + 15, self::minute($ends, $day))];
            }
        }

        return $days;
    }

    /** Minutes since midnight on the clock of the day's zone. */
    private static function minute(int $at, CarbonImmutable $day): int
    {
        [$hour, $minute] = explode(':', CarbonImmutable::createFromTimestamp($at, $day->timezone)->format('G:i'));

        return 60 * (int) $hour + (int) $minute;
    }
}
