<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Protect\Window;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class CheckPlan extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('check-plan')
            ->setDescription('Has the copies of a store read back every night, as many as the bytes and the hours allow')
            ->addArgument('store', InputArgument::REQUIRED)
            ->addOption('mb', null, InputOption::VALUE_REQUIRED, '10^6 bytes a night; 0 ends the plan')
            ->addOption('from', null, InputOption::VALUE_REQUIRED, 'HH:MM', '01:00')
            ->addOption('until', null, InputOption::VALUE_REQUIRED, 'HH:MM', '05:00')
            ->addOption('zone', null, InputOption::VALUE_REQUIRED, 'the zone of these hours', 'UTC');
    }

    protected function carryOut(InputInterface $input): int
    {
        $store = self::knownStore((string) $input->getArgument('store'));
        $mb = $input->getOption('mb');
        if (! is_numeric($mb) || (float) $mb < 0) {
            throw new InvalidArgumentException('Say with --mb how many 10^6 bytes are to be read a night.');
        }
        [$from, $until, $zone] = [
            (string) $input->getOption('from'),
            (string) $input->getOption('until'),
            (string) $input->getOption('zone'),
        ];
        Window::of($from, $until, $zone);
        $bytes = (float) $mb > 0 ? (int) ((float) $mb * 1e6) : null;
        $store->update(['check_bytes_a_night' => $bytes, 'check_from' => $from, 'check_until' => $until, 'check_zone' => $zone]);
        $this->answer(
            ['store' => $store->name, 'bytes_a_night' => $bytes, 'from' => $from, 'until' => $until, 'zone' => $zone],
            fn (): array => [
                $bytes === null
                    ? "The copies on {$store->name} are not read back by plan."
                    : "{$store->name}: ".
                        Words::size($bytes).
                        " a night between $from and $until ($zone), what was checked longest ago first.",
            ],
        );

        return self::DONE;
    }
}
