<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Instance;
use App\Jobs\LookAtStores;
use App\Models\Lane;
use App\Models\Store;
use App\Stores\ClosedFolder;
use App\Stores\UnableToStore;
use InvalidArgumentException;
use Kaiseki\StandIns\CartridgeLibrary;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class StoreAdd extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('store-add')
            ->setDescription('Adds a store of our own, or changes its rates')
            ->addArgument('store', InputArgument::REQUIRED, 'its name')
            ->addArgument('folder', InputArgument::OPTIONAL, 'its folder; it is made if only its last part is missing. None for a bucket')
            ->addOption('kind', null, InputOption::VALUE_REQUIRED, 'folder, object or tape', 'folder')
            ->addOption('site', null, InputOption::VALUE_REQUIRED, 'where it is', 'boathouse')
            ->addOption('read-mb-s', null, InputOption::VALUE_REQUIRED, 'how fast it is read, in 10^6 bytes a second', '120')
            ->addOption('setup-s', null, InputOption::VALUE_REQUIRED, 'seconds before the first byte of each medium', '0')
            ->addOption(
                'lane-mb-s',
                null,
                InputOption::VALUE_REQUIRED,
                'the speed of the lane between its site and that of --lane-to, both ways',
            )
            ->addOption('lane-to', null, InputOption::VALUE_REQUIRED, 'the other end of that lane', 'boathouse')
            ->addOption(
                'bucket',
                null,
                InputOption::VALUE_REQUIRED,
                'object: the bucket of an S3-compatible service; its keys come from KAISEKI_STORE_KEY and KAISEKI_STORE_SECRET',
            )
            ->addOption('endpoint', null, InputOption::VALUE_REQUIRED, 'object: the address of the service')
            ->addOption('region', null, InputOption::VALUE_REQUIRED, 'object: its region', 'us-east-1')
            ->addOption('prefix', null, InputOption::VALUE_REQUIRED, 'object: what the names of all objects begin with')
            ->addOption('cartridges', null, InputOption::VALUE_REQUIRED, 'tape: the labels of a new library, joined with commas')
            ->addOption('slots', null, InputOption::VALUE_REQUIRED, 'tape: how many stand in the library; the rest are on the shelf', '4')
            ->addOption('capacity-mb', null, InputOption::VALUE_REQUIRED, 'tape: 10^6 bytes on each', '1000')
            ->addOption('wind-mb-s', null, InputOption::VALUE_REQUIRED, 'tape: how fast it is wound', '2000');
    }

    protected function carryOut(InputInterface $input): int
    {
        $name = (string) $input->getArgument('store');
        if (preg_match('/^[A-Za-z0-9][A-Za-z0-9._-]{0,99}$/D', $name) !== 1) {
            throw new InvalidArgumentException(
                'The name of a store has letters, digits, dots, dashes and underscores, and at most 100 of them.',
            );
        }
        $kind = (string) $input->getOption('kind');
        if (! in_array($kind, ['folder', 'object', 'tape'], true)) {
            throw new InvalidArgumentException("\"$kind\" is not a kind of store. Kinds are folder, object and tape.");
        }
        $site = (string) $input->getOption('site');
        $bucket = $kind === 'object' ? $input->getOption('bucket') : null;
        $root = $bucket === null ? $this->folder($input) : "s3://$bucket/{$input->getOption('prefix')}";
        if ($bucket !== null) {
            self::keepKeys($name);
        }
        if ($kind === 'tape' && ! is_file("$root/library.json")) {
            $this->buildLibrary($input, $root);
        }
        $store = Store::query()->updateOrCreate(
            ['name' => $name],
            [
                'kind' => $kind,
                'site' => $site,
                'root' => $root,
                'read_mb_s' => self::positive($input, 'read-mb-s'),
                'setup_s' => self::positive($input, 'setup-s', true),
                'options' => $bucket === null
                        ? null
                        : array_filter([
                            'bucket' => $bucket,
                            'endpoint' => $input->getOption('endpoint'),
                            'region' => $input->getOption('region'),
                            'prefix' => $input->getOption('prefix'),
                        ]),
            ],
        );
        if ($input->getOption('lane-mb-s') !== null) {
            $other = (string) $input->getOption('lane-to');
            foreach ([[$site, $other], [$other, $site]] as [$from, $to]) {
                Lane::query()->updateOrCreate(['from_site' => $from, 'to_site' => $to], ['mb_s' => self::positive($input, 'lane-mb-s')]);
            }
        }
        $this->answer(
            [
                'store' => $store->name,
                'kind' => $kind,
                'site' => $store->site,
                'read_mb_s' => $store->read_mb_s,
                'setup_s' => $store->setup_s,
            ],
            fn (): array => ["{$store->name} at {$store->site}: {$store->root}"],
        );

        LookAtStores::dispatch();

        return self::DONE;
    }

    private function folder(InputInterface $input): string
    {
        $folder = (string) ($input->getArgument('folder') ?? throw new InvalidArgumentException('Name the folder of the store.'));
        if (! is_dir($folder) && ! @mkdir($folder, 0700)) {
            throw new InvalidArgumentException("The folder \"$folder\" is not there and cannot be made.");
        }

        $folder = (string) realpath($folder);
        try {
            $word = ClosedFolder::mend($folder);
        } catch (UnableToStore $unable) {
            throw new InvalidArgumentException(ucfirst($unable->getMessage()).'.');
        }
        $word === null || $this->say($word);

        return $folder;
    }

    private function buildLibrary(InputInterface $input, string $root): void
    {
        $labels = array_values(
            array_filter(explode(',', (string) $input->getOption('cartridges')), fn (string $label): bool => $label !== ''),
        );
        CartridgeLibrary::build(
            $root,
            $labels,
            (int) self::positive($input, 'slots'),
            (int) (self::positive($input, 'capacity-mb') * 1e6),
            self::positive($input, 'setup-s', true),
            self::positive($input, 'read-mb-s'),
            self::positive($input, 'wind-mb-s'),
        );
    }

    /** In the home, readable for nobody else; never in the database. */
    private static function keepKeys(string $store): void
    {
        [$key, $secret] = [getenv('KAISEKI_STORE_KEY'), getenv('KAISEKI_STORE_SECRET')];
        $file = Instance::folder('keys')."/store-$store.json";
        if ($key === false || $secret === false) {
            if (! is_file($file)) {
                throw new InvalidArgumentException('Give the keys of the bucket in KAISEKI_STORE_KEY and KAISEKI_STORE_SECRET.');
            }

            return;
        }
        file_put_contents($file, json_encode(['key' => $key, 'secret' => $secret], JSON_THROW_ON_ERROR));
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
