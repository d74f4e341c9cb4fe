<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Models\Lane;
use App\Models\Store;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class StoreAdd extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('store-add')->setDescription('Adds a store of our own, or changes its rates')
            ->addArgument('store', InputArgument::REQUIRED, 'its name')
            ->addArgument('folder', InputArgument::REQUIRED, 'its folder; it is made if only its last part is missing')
            ->addOption('site', null, InputOption::VALUE_REQUIRED, 'where it is', 'boathouse')
            ->addOption('read-mb-s', null, InputOption::VALUE_REQUIRED, 'how fast it is read, in 10^6 bytes a second', '120')
            ->addOption('setup-s', null, InputOption::VALUE_REQUIRED, 'seconds before its first byte', '0')
            ->addOption('lane-mb-s', null, InputOption::VALUE_REQUIRED, 'the speed of the lane between its site and that of --lane-to, both ways')
            ->addOption('lane-to', null, InputOption::VALUE_REQUIRED, 'the other end of that lane', 'boathouse');
    }

    protected function carryOut(InputInterface $input): int
    {
        $name = (string) $input->getArgument('store');
        if (preg_match('/^[A-Za-z0-9][A-Za-z0-9._-]{0,99}$/D', $name) !== 1) {
            throw new InvalidArgumentException('The name of a store has letters, digits, dots, dashes and underscores, and at most 100 of them.');
        }
        $folder = (string) $input->getArgument('folder');
        if (! is_dir($folder) && ! @mkdir($folder, 0755)) {
            throw new InvalidArgumentException("The folder \"$folder\" is not there and cannot be made.");
        }
        $site = (string) $input->getOption('site');
        $store = Store::query()->updateOrCreate(['name' => $name], [
            'site' => $site, 'root' => (string) realpath($folder), 'read_mb_s' => self::positive($input, 'read-mb-s'), 'setup_s' => self::positive($input, 'setup-s', true),
        ]);
        if ($input->getOption('lane-mb-s') !== null) {
            $other = (string) $input->getOption('lane-to');
            foreach ([[$site, $other], [$other, $site]] as [$from, $to]) {
                Lane::query()->updateOrCreate(['from_site' => $from, 'to_site' => $to], ['mb_s' => self::positive($input, 'lane-mb-s')]);
            }
        }
        $this->answer(['store' => $store->name, 'site' => $store->site, 'read_mb_s' => $store->read_mb_s, 'setup_s' => $store->setup_s], fn (): array => ["{$store->name} at {$store->site}: {$store->root}"]);

        return self::DONE;
    }

    private static function positive(InputInterface $input, string $option, bool $zero = false): float
    {
        $value = $input->getOption($option);
        if (! is_numeric($value) || $value < 0 || (! $zero && $value == 0)) {
            throw new InvalidArgumentException("--$option must be a number above 0.");
        }

        return (float) $value;
    }
}
