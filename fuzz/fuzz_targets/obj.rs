#![no_main]

libfuzzer_sys::fuzz_target!(|bytes: &[u8]| readers::Reader::Model("obj").read(bytes));
