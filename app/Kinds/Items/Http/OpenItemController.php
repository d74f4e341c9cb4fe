<?php

declare(strict_types=1);

namespace App\Kinds\Items\Http;

use App\Models\RecoveryRequest;
use App\Models\User;
use Illuminate\Http\Request;
use Illuminate\Http\Response;

/** One item of the workload of a request: its source; of a message its page in a frame without rights, and what came with it. */
final class OpenItemController
{
    public function letter(Request $request, RecoveryRequest $recoveryRequest, string $item): Response
    {
        return $this->read($request, $recoveryRequest, $item, 'looked at')->letter();
    }

    public function source(Request $request, RecoveryRequest $recoveryRequest, string $item): Response
    {
        return $this->read($request, $recoveryRequest, $item, 'took the source of')->source();
    }

    public function part(Request $request, RecoveryRequest $recoveryRequest, string $item, int $number): Response
    {
        return $this->read($request, $recoveryRequest, $item, "took attachment $number of")->part($number);
    }

    private function read(Request $request, RecoveryRequest $of, string $key, string $did): ServedItem
    {
        $user = $request->user();
        assert($user instanceof User);

        return ServedItem::of($of->workload, $key)->noted($did, "for request {$of->id}", $user);
    }
}
