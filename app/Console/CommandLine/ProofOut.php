<?php

declare(strict_types=1);

namespace App\Console\CommandLine;

use App\Kinds\Kinds;
use App\Models\Run;
use App\Runs\ProofPage;
use App\Runs\RunFiles;
use InvalidArgumentException;
use Symfony\Component\Console\Input\InputArgument;
use Symfony\Component\Console\Input\InputInterface;
use Symfony\Component\Console\Input\InputOption;

final class ProofOut extends KaisekiCommand
{
    protected function configure(): void
    {
        parent::configure();
        $this->setName('proof')
            ->setDescription('Writes the signed evidence of a run')
            ->addArgument('run', InputArgument::REQUIRED, 'the number of the run')
            ->addOption(
                'out',
                null,
                InputOption::VALUE_REQUIRED,
                'a file to write it to; beside it, ending in .b2sum and .entries.jsonl, the manifest and the list of entries. Without it '.
                    'the proof is printed',
            )
            ->addOption('html', null, InputOption::VALUE_REQUIRED, 'a file to write it to as a page to read')
            ->addOption('pdf', null, InputOption::VALUE_REQUIRED, 'a file to write it to as PDF');
    }

    protected function carryOut(InputInterface $input): int
    {
        $number = (string) $input->getArgument('run');
        $run = Run::query()->find((int) $number) ?? throw new InvalidArgumentException("There is no run $number.");
        $proof = @file_get_contents(RunFiles::proof($run));
        if ($proof === false) {
            throw new InvalidArgumentException("Run $number has no proof: it is {$run->state}.");
        }
        foreach (['html' => ProofPage::html(...), 'pdf' => ProofPage::pdf(...)] as $option => $make) {
            $page = $input->getOption($option);
            if ($page !== null && @file_put_contents((string) $page, (string) $make($run)) === false) {
                throw new InvalidArgumentException("\"$page\" cannot be written.");
            }
        }
        $out = $input->getOption('out');
        if ($out === null) {
            $document = json_decode($proof, true);
            assert(is_array($document));
            $this->answer($document, fn (): array => [rtrim($proof)]);

            return self::DONE;
        }
        $beside = Kinds::of($run)->carrier()->besideProof($run);
        $written = @file_put_contents((string) $out, $proof) !== false;
        foreach ($beside as $ending => $file) {
            $written = $written && @copy($file, "$out$ending");
        }
        if (! $written) {
            throw new InvalidArgumentException("\"$out\" cannot be written.");
        }
        $names = ["$out", ...array_map(fn (string $ending): string => "$out$ending", array_keys($beside))];
        $last = array_pop($names);
        $words = $names === [] ? "$last is written." : implode(', ', $names)." and $last are written.";
        $manifest = array_key_first($beside);
        $this->answer(
            ['run' => $run->id, 'proof' => mb_scrub((string) $out)] + ($manifest === null ? [] : ['manifest' => mb_scrub("$out$manifest")]),
            fn (): array => [$words],
        );

        return self::DONE;
    }
}
