<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Names;

use App\Kinds\Machines\Order\CannotBring;
use App\Models\Workload;
use Kaiseki\Core\Names\Addresses;
use Kaiseki\Core\Names\NameFailure;
use Kaiseki\Core\Proof\CheckLine;

/** Has the names of a machine lead to where it is. */
final class LeadNames
{
    /**
     * All of its names, or none.
     *
     * @return list<LedName>
     *
     * @throws CannotBring if one cannot be led there; those before it lead where they did
     */
    public static function to(Workload $workload, string $said): array
    {
        $led = [];
        try {
            $names = MachineName::of($workload);
            $names->isNotEmpty() || throw CannotBring::because(
                "No name of {$workload->name} is known that could lead there: kaiseki machine-name add NAME --of={$workload->name}",
            );
            $address = Addresses::of([$said])->all[0];
            self::refuseTaken($workload, $address);
            foreach ($names as $name) {
                $from = $name->look();
                $name->lead($from, $from->with($address));
                $led[] = new LedName($name->name, $from, $from->with($address));
            }
        } catch (NameFailure $failure) {
            self::go(self::turned($led));
            throw CannotBring::because(ucfirst($failure->getMessage()).'.');
        }

        return $led;
    }

    /** An address to which the name of another machine leads is not this one's. */
    private static function refuseTaken(Workload $workload, string $address): void
    {
        foreach (MachineName::query()->where('workload_id', '<>', $workload->id)->with('workload')->get() as $other) {
            in_array($address, $other->leadsTo()->all, true) && throw CannotBring::because(
                "$address is taken: {$other->name} leads to it, which is a name of {$other->workload->name}.",
            );
        }
    }

    /**
     * Where they led before, or to another address.
     *
     * @param  list<LedName>  $led
     * @return list<LedName>
     *
     * @throws NameFailure if that is no address
     */
    public static function turned(array $led, string $address = ''): array
    {
        return array_map(
            fn (LedName $one): LedName => new LedName($one->name, $one->to, $address === '' ? $one->from : $one->from->with($address)),
            $led,
        );
    }

    /**
     * Leads them; one that somebody has changed since stays as it is.
     *
     * @param  list<LedName>  $led
     * @return list<CheckLine> a check for each
     */
    public static function go(array $led): array
    {
        $checks = [];
        foreach ($led as $one) {
            try {
                $name = MachineName::query()->where('name', $one->name)->with('server')->first()
                    ?? throw NameFailure::because("{$one->name} is no name of it any more");
                $isThere = $name->look()->equals($one->to); // led there by a run that was cut off
                $isThere || $name->lead($one->from, $one->to);
                [$isRight, $detail] = [true, $one->words()];
            } catch (NameFailure $failure) {
                [$isRight, $detail] = [false, ucfirst($failure->getMessage())];
            }
            $checks[] = CheckLine::of("{$one->name} leads to where it is", $isRight, $detail);
        }

        return $checks;
    }
}
