Put back <x-blank :frame="$frame" picker="what"
        :gap="$sheet->selection === [] || $sheet->absent !== []">{{ $sheet->whatInWords() }}</x-blank> from
        <x-blank :frame="$frame" picker="when" key="source"
            :gap="$request->workload === null">{{ $request->workload->name ?? 'a workload not settled yet' }}</x-blank> as it was on
                <x-blank
            :frame="$frame" picker="when" key="at"
            :gap="$sheet->point === null">{{ $view->whenInWords() }}</x-blank>{{ $sheet->best === null ? ''
                : ', each file from the newest point at which it is right,' }}
        into
        <x-blank :frame="$frame" picker="where" :gap="$sheet->destination->blocker !== null">{{ $sheet->destination->words }}</x-blank>,
            <x-blank
            :frame="$frame" picker="where" key="conflict">{{ $sheet->conflictInWords() }}</x-blank>, and check it by <x-blank
            :frame="$frame" picker="how">digest, size, mode and time</x-blank>.
