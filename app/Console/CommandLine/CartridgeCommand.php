<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Runs\Shelf;
use App\Sets\CannotPlan;
use App\Sets\OnCartridge;
use App\Stores\CartridgeStore;
use App\Stores\OpenStores;
use App\Words;
use InvalidArgumentException;
use Kaiseki\Core\Tape\UnableToUseTape;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class CartridgeCommand extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('cartridge')
            ->setDescription(
                'Says what is on a cartridge and what could be restored from it alone; records that it was asked for, has arrived, or '.
                    'was taken out',
            )
            ->addArgument('store', InputArgument::REQUIRED, 'the tape store')
            ->addArgument('label', InputArgument::REQUIRED, 'the label of the cartridge')
            ->addOption('call', null, InputOption::VALUE_NONE, 'ask for it')
            ->addOption('arrived', null, InputOption::VALUE_NONE, 'it was put into the library')
            ->addOption('out', null, InputOption::VALUE_NONE, 'it was taken out, to the shelf');
    }

    protected function carryOut(InputInterface $input): int
    {
        $name = (string) $input->getArgument('store');
        $label = (string) $input->getArgument('label');
        $store = self::knownStore($name);
        $open = (new OpenStores)->of($store);
        if (! ($open instanceof CartridgeStore)) {
            throw new InvalidArgumentException("$name has no cartridges.");
        }
        try {
            $open->cartridges()[$label] ?? throw new InvalidArgumentException("There is no cartridge \"$label\" in $name.");
            if ($input->getOption('arrived')) {
                Shelf::arrived($store, $label);
            } elseif ($input->getOption('out')) {
                Shelf::takenOut($store, $label);
            } elseif ($input->getOption('call')) {
                Shelf::call(["$name/$label"], null);
            }
            $open->release();
            $cartridge = $open->cartridges()[$label];
        } catch (UnableToUseTape $unable) {
            throw CannotPlan::because($unable->getMessage());
        }
        $contents = OnCartridge::of($store, $label);
        $this->answer(
            [
                'store' => $name,
                'cartridge' => $label,
                'slot' => $cartridge->slot,
                'used' => $cartridge->used,
                'capacity' => $cartridge->capacity,
                'sets' => array_map(self::document(...), $contents),
            ],
            function () use ($cartridge, $contents): iterable {
                yield sprintf(
                    '%s is %s; %s of %s used.',
                    $cartridge->label,
                    $cartridge->slot === null ? 'on the shelf' : "in slot {$cartridge->slot}",
                    Words::size($cartridge->used),
                    Words::size($cartridge->capacity),
                );
                foreach ($contents as $set) {
                    yield self::line($set);
                }
            },
        );

        return self::DONE;
    }

    /** @return array<string, mixed> */
    private static function document(OnCartridge $set): array
    {
        return [
            'workload' => $set->workload->name,
            'set' => $set->set->name,
            'position' => $set->position,
            'bytes' => $set->bytes,
            'parts' => $set->parts,
            'restorable_alone' => $set->isPointAlone,
        ];
    }

    private static function line(OnCartridge $set): string
    {
        $use = match (true) {
            $set->isPointAlone => 'restorable from this cartridge alone',
            $set->parts > 1 => 'in part: it spans cartridges',
            default => 'needs other media',
        };

        return sprintf('  %-44s %10s at %12d  %s', $set->set->name, Words::size($set->bytes), $set->position, $use);
    }
}
