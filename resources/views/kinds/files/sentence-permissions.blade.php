Give <x-blank :frame="$frame" picker="what"
    :gap="$sheet->selection === [] || $sheet->absent !== []">{{ $sheet->thingsInWords() }}</x-blank> of
    <x-blank
    :frame="$frame" picker="when" key="source"
    :gap="$request->workload === null">{{ $request->workload->name ?? 'a workload not settled yet' }}</x-blank>, in
    <x-blank
    :frame="$frame" picker="where"
    :gap="!$sheet->destination->isInUse() || $sheet->destination->blocker !== null">{{ $sheet->destination->words }}</x-blank>,
    <x-blank
    :frame="$frame" picker="how">the permissions</x-blank> of <x-blank :frame="$frame" picker="when" key="at"
    :gap="$sheet->point === null">{{ $view->whenInWords() }}</x-blank>: owner, group, mode and access list. What is in them stays as it is.
