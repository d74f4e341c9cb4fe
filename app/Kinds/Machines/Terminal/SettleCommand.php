<?php

declare(strict_types=1);

namespace App\Kinds\Machines\Terminal;

use App\Console\CommandLine\KaisekiCommand;
use App\Kinds\Machines\Order\CannotBring;
use App\Kinds\Machines\Run\MachineCarrier;
use App\Kinds\Machines\Standing\Following;
use App\Kinds\Machines\Standing\FollowStep;
use App\Kinds\Machines\Standing\Settle;
use App\Kinds\Machines\Standing\SettleWish;
use App\Models\Run;
use Carbon\CarbonImmutable;
use InvalidArgumentException;
use Kaiseki\Core\Instant;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

/** Brings a machine that stands to its own storage, while it runs. */
final class SettleCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('settle')
            ->setDescription('Brings a machine that runs off its sets to its own storage; or one that follows to its newest point')
            ->addOption('speed', null, InputOption::VALUE_REQUIRED, 'megabytes a second at most; said again meanwhile, it changes that')
            ->addOption(
                'storage',
                null,
                InputOption::VALUE_REQUIRED | InputOption::VALUE_IS_ARRAY,
                'another storage than the one that its disks lie on, or DISK=STORAGE for one disk; can be said several times',
            )
            ->addOption('at', null, InputOption::VALUE_REQUIRED, 'begin at this time, and not now');
        OfStanding::describe($this);
    }

    protected function carryOut(InputInterface $input): int
    {
        $of = Run::query()->find((int) $input->getArgument('run'));
        $following = $of === null ? null : Following::active($of);
        if ($following !== null) {
            return $this->lastStep($following);
        }
        $standing = OfStanding::said($input);
        $settle = new Settle($standing);
        $wish = self::wish($input);
        $speed = $wish->limit;
        $marked = $standing->run->marked();
        $marked === null || self::refuseMarked($marked, 'settling it');
        if ($standing->isBeingSettled() && $input->getOption('at') === null) {
            $input->getOption('storage') === [] || throw new InvalidArgumentException(
                "Run {$standing->settled_by} settles it already: where its disks come to is not changed meanwhile.",
            );
            $settle->limit($speed, null);
            $words = $speed === null ? 'without a limit' : "at $speed MB/s at most";
            $this->answer(['run' => $standing->settled_by, 'speed' => $speed], fn (): array => ["It is settled $words from now on."]);

            return self::DONE;
        }
        try {
            if ($input->getOption('at') !== null) {
                return $this->later($settle, Instant::parse((string) $input->getOption('at')), $wish);
            }
            $run = $settle->order($wish, null);
        } catch (CannotBring $cannot) {
            return $this->blocked($cannot->getMessage());
        }
        (new MachineCarrier($this->talk()->progress(...)))->carryOut($run);

        return OfStanding::answer($run->refresh(), 'is settled', $this->answer(...));
    }

    /** @throws CannotBring */
    private function later(Settle $settle, Instant $when, SettleWish $wish): int
    {
        $at = CarbonImmutable::instance($when->in());
        $settle->orderAt($at, $wish, null);
        $words = $at->format('j M Y H:i T');
        $this->answer(['settle_at' => $at->format('Y-m-d\TH:i:s\Z')], fn (): array => ["It is settled from $words on."]);

        return self::DONE;
    }

    /** One that follows goes to the newest point, and is started. */
    private function lastStep(Following $following): int
    {
        try {
            $run = (new FollowStep($following))->last();
        } catch (CannotBring $cannot) {
            return $this->blocked($cannot->getMessage());
        }
        (new MachineCarrier($this->talk()->progress(...)))->carryOut($run);
        $run->refresh()->state !== 'done' || $following->end(Following::STARTED);

        return OfStanding::answer($run, 'is settled', $this->answer(...));
    }

    private static function wish(InputInterface $input): SettleWish
    {
        $storages = [];
        $all = '';
        foreach ($input->getOption('storage') as $said) {
            [$first, $second] = explode('=', $said, 2) + [1 => null];
            $second === null ? $all = $first : $storages[$first] = $second;
        }
        in_array('', $storages, true) && throw new InvalidArgumentException('--storage is a storage, or DISK=STORAGE.');

        return new SettleWish(self::speed($input), $storages, $all);
    }

    private static function speed(InputInterface $input): ?int
    {
        $said = $input->getOption('speed');
        if ($said !== null && preg_match('/^[1-9]\d{0,5}$/D', (string) $said) !== 1) {
            throw new InvalidArgumentException('--speed is a number of megabytes a second from 1 on.');
        }

        return $said === null ? null : (int) $said;
    }
}
